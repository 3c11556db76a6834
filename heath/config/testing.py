"""Settings for tests: quick password hashing, static files straight from the apps."""

import os

from heath.config.settings import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.InMemoryStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
WHITENOISE_USE_FINDERS = True
WHITENOISE_AUTOREFRESH = True
STANDINS = True
# Several suites copy one database that was migrated for all of them.
if template := os.environ.get("TEST_TEMPLATE"):
    DATABASES["default"]["TEST"] = {"TEMPLATE": template}
INSTALLED_APPS = ["heath.demo", *INSTALLED_APPS]  # first, as where the demo runs
TEST_RUNNER = "heath.config.runner.Runner"

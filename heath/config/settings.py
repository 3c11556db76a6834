"""Settings. Everything that differs between machines is given (heath.config.given)."""

import os
from datetime import timedelta
from pathlib import Path

from csp.constants import NONE, SELF
from django.core.exceptions import ImproperlyConfigured

from heath.config.given import Wrong, given
from heath.config.lines import LETTER_SECONDS, database_line, storage_line
from heath.config.logs import logging_for

try:
    GIVEN = given()
except Wrong as wrong:
    raise ImproperlyConfigured(str(wrong)) from None

BASE_DIR = Path(__file__).resolve().parents[2]
DATA = GIVEN.data
HTTPS = GIVEN.https

# Simulated devices for the demo and the tests; a real school leaves this out.
STANDINS = GIVEN.standins

# pictures as sent that were never sorted
ORIGINALS_DAYS = GIVEN.originals_days
BACKUP_TO, BACKUP_KEY = GIVEN.backup_to, GIVEN.backup_key
SCHOOL_GB = GIVEN.school_gb  # photographs of one school

SECRET_KEY = GIVEN.secret_key
SECRET_KEY_FALLBACKS = list(GIVEN.old_keys)
DEBUG = False
ALLOWED_HOSTS = list(GIVEN.hosts)
LOOPBACK = {"127.0.0.1", "localhost", "[::1]"}
if STANDINS and (HTTPS or GIVEN.proxy or not set(ALLOWED_HOSTS) <= LOOPBACK):
    raise ImproperlyConfigured(
        "The demo has known passwords and is for this machine alone: take HEATH_STANDINS away, or"
        " HEATH_HOSTS, HEATH_HTTPS and HEATH_PROXY."
    )

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django.contrib.postgres",
    "csp",
    "procrastinate.contrib.django",
    "axes",
    # first, so that its made-up sign-ins take the place of a school's welcome
    *(["heath.demo"] if STANDINS else []),
    "heath.web",
    "heath.drawing",
    "heath.people",
    "heath.jobs",
    "heath.assessment",
    "heath.classes",
    "heath.shelf",
    "heath.briefs",
    "heath.intake",
    "heath.bench",
    "heath.planner",
    "heath.wall",
    "heath.returns",
    "heath.rulebook",
    "heath.bundles",
    "heath.exemplars",
    "heath.practice",
    "heath.moderation",
    "heath.records",
    "heath.operations",
]

MIDDLEWARE = [
    "heath.web.requests.Requests",
    "django.middleware.security.SecurityMiddleware",
    "heath.web.compressed.Compressed",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "heath.people.signed_in.SignedIn",
    "heath.people.settings.Zone",
    "heath.web.private.Private",
    "heath.people.access.Access",
    "django.contrib.messages.middleware.MessageMiddleware",
    "heath.web.plain.Plain",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "heath.web.lengths.Lengths",
    "axes.middleware.AxesMiddleware",
]

CSRF_FAILURE_VIEW = "heath.people.signed_in.older"
ROOT_URLCONF = "heath.config.urls"
WSGI_APPLICATION = "heath.config.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ]
        },
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": GIVEN.db_name,
        "USER": GIVEN.db_user,
        "PASSWORD": GIVEN.db_password,
        "HOST": GIVEN.db_hosts[0],
        "PORT": GIVEN.db_hosts[1],
        # Of several servers the one that writes: the standby, once it was promoted.
        "OPTIONS": database_line()
        | ({"target_session_attrs": "read-write"} if GIVEN.db_standby else {}),
        "CONN_MAX_AGE": 60,
        # A connection that the database dropped is made anew, not answered with an error.
        "CONN_HEALTH_CHECKS": True,
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "people.User"
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "term"
LOGOUT_REDIRECT_URL = "sign-in"
PASSWORD_HASHERS = [
    "django.contrib.auth.hashers.Argon2PasswordHasher",
    "django.contrib.auth.hashers.PBKDF2PasswordHasher",
]
AUTH_PASSWORD_VALIDATORS = [
    {
        "NAME": "django.contrib.auth.password_validation.MinimumLengthValidator",
        "OPTIONS": {"min_length": 10},
    },
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
]
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "heath.people.backend.WithSchool"]
# Attempts to sign in, by name and by address: so many, then a pause. They are kept in the log and
# the database.
AXES_FAILURE_LIMIT = 10
AXES_COOLOFF_TIME = timedelta(minutes=10)
AXES_LOCKOUT_PARAMETERS = ["username", "ip_address"]
AXES_RESET_ON_SUCCESS = True
AXES_LOCKOUT_TEMPLATE = "people/locked_out.html"
AXES_HTTP_RESPONSE_CODE = 429
AXES_VERBOSE = False

# Letters go to a mail server where one is given, else into files in data/mail.
EMAIL_HOST = GIVEN.mail_host
EMAIL_PORT = GIVEN.mail_port
EMAIL_TIMEOUT = LETTER_SECONDS
EMAIL_BACKEND = f"django.core.mail.backends.{'smtp' if EMAIL_HOST else 'filebased'}.EmailBackend"
EMAIL_FILE_PATH = DATA / "mail"
DEFAULT_FROM_EMAIL = GIVEN.mail_from

LANGUAGE_CODE = "en-gb"
TIME_ZONE = GIVEN.time_zone
USE_I18N = True
USE_TZ = True

STATIC_URL = "static/"
STATIC_ROOT = DATA / "static"
MEDIA_ROOT = DATA / "media"
STORAGES = {
    "default": {
        "BACKEND": "storages.backends.s3.S3Storage",
        "OPTIONS": {
            "bucket_name": GIVEN.storage,
            "endpoint_url": GIVEN.storage_endpoint or None,
            "access_key": GIVEN.storage_key or None,
            "secret_key": GIVEN.storage_secret or None,
            "region_name": GIVEN.storage_region or None,
            "file_overwrite": False,
            "default_acl": None,
            "client_config": storage_line(),
        },
    }
    if GIVEN.storage
    else {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "heath.web.storage.ModuleStorage"},
}
FILE_UPLOAD_MAX_MEMORY_SIZE = 2_500_000
DATA_UPLOAD_MAX_MEMORY_SIZE = 2_500_000
FILE_UPLOAD_PERMISSIONS = 0o600

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF],
        "font-src": [SELF],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = HTTPS
SECURE_HSTS_SECONDS = 31_536_000 if HTTPS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = HTTPS
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if HTTPS else None
SESSION_COOKIE_AGE = 60 * 60 * 24 * 14
X_FRAME_OPTIONS = "DENY"

LOGGING = logging_for(GIVEN.log, GIVEN.errors_to, GIVEN.errors_url)

METRICS, METRICS_FROM = GIVEN.metrics, GIVEN.metrics_from
if METRICS:
    # Processes of one machine count together in files of this folder; before the first counter.
    os.environ.setdefault("PROMETHEUS_MULTIPROC_DIR", str(DATA / "metrics"))
    Path(os.environ["PROMETHEUS_MULTIPROC_DIR"]).mkdir(parents=True, exist_ok=True)

"""WSGI entry point."""

import os
from importlib import import_module

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "heath.config.settings")
application = get_wsgi_application()

# What the pages need is imported here, not while somebody waits for the first of them.
import_module("heath.config.urls")

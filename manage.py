#!/usr/bin/env python
"""Django's command line."""

import os
import sys

if __name__ == "__main__":
    from heath.config.given import Wrong, given

    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "heath.config.settings")
    try:
        given()
    except Wrong as wrong:
        sys.exit(str(wrong))
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)

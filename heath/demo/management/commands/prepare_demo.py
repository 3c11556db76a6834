"""Migrate, gather static files and load the demo data, in one process."""

from django.core.management import call_command
from django.core.management.base import BaseCommand

from heath.demo.term import load


class Command(BaseCommand):
    help = "Bring the database up to date and load the demo data; what is there already is kept."

    def handle(self, *args, **options):
        call_command("migrate", verbosity=0, interactive=False)
        call_command("collectstatic", verbosity=0, interactive=False)
        load()

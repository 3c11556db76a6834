"""Say what this installation holds, and how far what an older core saw is seen anew."""

from django.core.management.base import BaseCommand
from django.db import connection

from heath.assessment.models import Photograph
from heath.operations.state import renewal
from juniper import VERSION


class Command(BaseCommand):
    help = "Say what the installation holds."
    requires_system_checks = ()

    def add_arguments(self, parser):
        parser.add_argument(
            "--filled", action="store_true", help="only yes or no: whether there are tables"
        )

    def handle(self, *args, **options):
        tables = connection.introspection.table_names()
        if options["filled"]:
            self.stdout.write("yes" if "django_migrations" in tables else "no")
            return
        done = renewal()
        self.stdout.write(f"Core {VERSION}, {Photograph.objects.count()} photographs.")
        if done.waiting:
            self.stdout.write(
                f"{done.waiting} of {done.whole} photographs that are not marked yet were seen by"
                " an older core and are seen anew in the background; the page Server says how far"
                " it is."
            )

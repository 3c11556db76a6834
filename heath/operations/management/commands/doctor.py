"""Say what is wrong with this installation, a sentence for each thing."""

from django.core.management.base import BaseCommand

from heath.operations.checks import ALL, examined


class Command(BaseCommand):
    help = "Check versions, disk, clock, model files, mail, storage, migrations, queue and keys."
    requires_system_checks = ()

    def add_arguments(self, parser):
        parser.add_argument(
            "--serious", action="store_true", help="say only what keeps the site from being served"
        )

    def handle(self, *args, **options):
        outcomes = examined(ALL)
        if options["serious"]:
            outcomes = [one for one in outcomes if one.serious and not one.well]
            for one in outcomes:
                self.stdout.write(one.fault)
            if outcomes:
                raise SystemExit(1)
            return
        for one in outcomes:
            self.stdout.write(f"{one.name:12} {one.fault or one.told or 'well'}")
        faults = sum(not one.well for one in outcomes)
        self.stdout.write(
            f"\n{faults} thing{'' if faults == 1 else 's'} to mend." if faults else "\nAll is well."
        )
        if faults:
            raise SystemExit(1)

"""List the schools of this installation, or add one."""

from django.core.management.base import BaseCommand, CommandError
from django.db.models import Count, Q

from heath.assessment.models import Photograph
from heath.operations.accounts import NotDone, new_school
from heath.people.models import School


class Command(BaseCommand):
    help = "List the schools: their people and photographs; --add makes one."

    def add_arguments(self, parser):
        parser.add_argument("--add", default="", metavar="NAME", help="make a school")

    def handle(self, *args, **options):
        if options["add"]:
            try:
                new_school(options["add"])
            except NotDone as error:
                raise CommandError(str(error)) from error
        counted = School.objects.annotate(
            people_count=Count("memberships", filter=Q(memberships__has_access=True))
        ).order_by("name")
        for school in counted:
            photographs = Photograph.objects.filter(
                current=True, piece__brief__course__school=school
            ).count()
            self.stdout.write(
                f"{school.name}: {school.people_count} people, {photographs} photographs"
            )

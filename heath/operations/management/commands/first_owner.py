"""Make the first owner of a school, and print the link by which they set their password."""

from django.core.management.base import BaseCommand, CommandError
from django.db import transaction

from heath.operations.accounts import NotDone, link_for, new_person, new_school, owners_of
from heath.people.models import Role, School, User


class Command(BaseCommand):
    help = "Make a school, if there is none of that name, and an owner; print a link for once."

    def add_arguments(self, parser):
        parser.add_argument("--school", required=True, help="its name")
        parser.add_argument("--username", required=True, help="what the owner signs in as")
        parser.add_argument("--email", required=True, help="the owner's e-mail address")
        parser.add_argument("--name", default="", help="the owner's full name")
        parser.add_argument(
            "--address", default="https://localhost", help="of the site, as a browser asks it"
        )

    @transaction.atomic
    def handle(self, *args, **options):
        name = options["school"].strip()
        try:
            school = School.objects.filter(name__iexact=name).first() or new_school(name)
            if owners_of(school):
                raise NotDone(
                    f"{name} has an owner already: they add people on the page People, and a"
                    " forgotten password is set anew from the sign-in page."
                )
            owner = new_person(
                school,
                options["username"],
                options["email"],
                Role.OWNER,
                options["name"],
                # The first of all looks after the server as well.
                operates=not User.objects.filter(is_superuser=True).exists(),
            )
        except NotDone as error:
            raise CommandError(str(error)) from error
        self.stdout.write(
            f"{owner.username} owns {school}. The password is set here, once, within three days:\n"
            f"{link_for(owner, options['address'])}"
        )

"""Add somebody to a school, change what they are, or make a new link to set their password."""

from django.core.management.base import BaseCommand, CommandError
from django.db import transaction

from heath.operations.accounts import (
    NotDone,
    link_for,
    membership_of,
    new_person,
    owners_of,
    school_called,
)
from heath.people.belonging import end_access, give_access, set_role
from heath.people.models import Role


class Command(BaseCommand):
    help = "Add, change, let in or keep out somebody of a school."

    def add_arguments(self, parser):
        parser.add_argument("school")
        parser.add_argument("username")
        what = parser.add_mutually_exclusive_group(required=True)
        what.add_argument("--add", metavar="EMAIL", help="make an account; prints a link for once")
        what.add_argument("--role", choices=Role.values, help="what they are from now on")
        what.add_argument("--link", action="store_true", help="a new link to set the password")
        what.add_argument("--out", action="store_true", help="keep them out of this school")
        what.add_argument("--in", action="store_true", dest="into", help="let them in again")
        parser.add_argument("--as", default=Role.ASSISTANT, dest="new_role", choices=Role.values,
                            help="what somebody new is")  # fmt: skip
        parser.add_argument("--name", default="", help="full name of somebody new")
        parser.add_argument("--address", default="https://localhost", help="of the site")

    @transaction.atomic
    def handle(self, *args, **options):
        try:
            school = school_called(options["school"])
            if options["add"]:
                user = new_person(
                    school, options["username"], options["add"], options["new_role"],
                    options["name"],
                )  # fmt: skip
                self._link(user, options)
                return
            one = membership_of(school, options["username"])
            leaves = options["out"] or (options["role"] and options["role"] != Role.OWNER)
            if leaves and owners_of(school) == [one]:
                raise NotDone("A school needs an owner. Make somebody else the owner first.")
        except NotDone as error:
            raise CommandError(str(error)) from error
        if options["link"]:
            self._link(one.user, options)
        elif options["out"]:
            end_access(one)
            self.stdout.write(f"{one.user.username} has no access to {school} any more.")
        elif options["into"]:
            give_access(one)
            self.stdout.write(f"{one.user.username} has access to {school}.")
        else:
            set_role(one, options["role"])
            self.stdout.write(f"{one.user.username} is {Role(options['role']).label} of {school}.")

    def _link(self, user, options):
        self.stdout.write(
            "The password is set here, once, within three days:\n"
            f"{link_for(user, options['address'])}"
        )

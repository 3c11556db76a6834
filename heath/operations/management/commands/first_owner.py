"""Make the first owner of a school, and print the link by which they set their password."""

from secrets import token_urlsafe

from django.contrib.auth.tokens import default_token_generator
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError
from django.core.validators import validate_email
from django.db import transaction
from django.urls import reverse
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_encode

from heath.people.models import Membership, Role, School, User


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
        name, username = options["school"].strip(), options["username"].strip()
        if not name or not username:
            raise CommandError("Give the school a name, and the owner a username.")
        try:
            validate_email(options["email"])
        except ValidationError as error:
            raise CommandError(f"{options['email']} is no e-mail address.") from error
        school, _ = School.objects.get_or_create(name=name)
        others = Membership.objects.filter(school=school, role=Role.OWNER, has_access=True)
        if others.exists():
            raise CommandError(
                f"{name} has an owner already: they add people on the page People, and a forgotten"
                " password is set anew from the sign-in page."
            )
        if User.objects.filter(username__iexact=username).exists():
            raise CommandError(f"Somebody signs in as {username} already: choose another.")
        first, _, last = options["name"].strip().partition(" ")
        # A password that nobody knows: the link takes its place.
        owner = User.objects.create_user(
            username,
            email=options["email"],
            password=token_urlsafe(32),
            first_name=first,
            last_name=last,
            school=school,
            role=Role.OWNER,
            # The first of all looks after the server as well.
            is_superuser=not User.objects.filter(is_superuser=True).exists(),
        )
        link = reverse(
            "password_reset_confirm",
            kwargs={
                "uidb64": urlsafe_base64_encode(force_bytes(owner.pk)),
                "token": default_token_generator.make_token(owner),
            },
        )
        self.stdout.write(
            f"{username} owns {name}. The password is set here, once, within three days:\n"
            f"{options['address'].rstrip('/')}{link}"
        )

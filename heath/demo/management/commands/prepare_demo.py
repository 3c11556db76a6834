"""Migrate, gather static files and load the demo data, in one process."""

from django.core.management import call_command
from django.core.management.base import BaseCommand

from heath.demo.past import play
from heath.demo.term import load
from heath.people.models import User


class Command(BaseCommand):
    help = "Bring the database up to date and load the demo data; what is there already is kept."

    def add_arguments(self, parser):
        parser.add_argument("--term", action="store_true", help="play a past term through as well")
        parser.add_argument("--small", action="store_true", help="one piece to a brief, or two")

    def handle(self, *args, **options):
        call_command("migrate", verbosity=0, interactive=False)
        call_command("collectstatic", verbosity=0, interactive=False)
        load(options["small"])
        if options["term"]:
            people = {u.username: u for u in User.objects.filter(username__in=("maren", "ossian"))}
            play(people["maren"].school, people["maren"], people["ossian"])

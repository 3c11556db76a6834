"""Holds every request against the policy, before its view is asked."""

from django.contrib import messages
from django.shortcuts import render
from django_htmx.http import HttpResponseClientRefresh

from heath.people.models import Role
from heath.people.policy import SAFE, THOUGH_ARCHIVED, WITHOUT_SCHOOL, Archived, needed, writing

NOBODY = "Nothing can be sent to this page."
ARCHIVED = (
    "This class is archived: it can be read and not changed. Use the class again on its page, then"
    " do this once more."
)
WHO = {
    Role.INSTRUCTOR: "Only instructors can do this. Ask an instructor of your school.",
    Role.MODERATOR: "Only moderators can do this. Ask a moderator of your school.",
    Role.OWNER: "Only the owner of the school's account can do this. Ask them.",
}


class Access:
    """Middleware: what a person's role does not allow is answered with a sentence."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        token = writing.set(False)
        try:
            return self.get_response(request)
        finally:
            writing.reset(token)

    def process_view(self, request, view, args, kwargs):
        """A refusal, or None where the person may go on."""
        if not getattr(view, "login_required", True) or not request.user.is_authenticated:
            return None
        name = request.resolver_match.url_name
        writing.set(request.method not in SAFE and name not in THOUGH_ARCHIVED)
        if name in WITHOUT_SCHOOL:
            return None
        if request.user.school_id is None:
            return render(request, "people/no_school.html", status=403)
        role = needed(name, request.method)
        if role is None:
            return _refused(request, NOBODY, 405)
        return None if request.user.is_at_least(role) else _refused(request, WHO[role], 403)

    def process_exception(self, request, exception):
        """What belongs to an archived class is not changed."""
        if not isinstance(exception, Archived):
            return None
        if request.htmx:  # a part of a page cannot show it: the page is drawn anew, with the words
            messages.error(request, ARCHIVED)
            return HttpResponseClientRefresh()
        return _refused(request, ARCHIVED, 403)


def _refused(request, words, status):
    return render(request, "people/refused.html", {"words": words}, status=status)

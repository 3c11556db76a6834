"""Holds every request against the policy, before its view is asked."""

from django.shortcuts import render

from heath.people.models import Role
from heath.people.policy import WITHOUT_SCHOOL, needed

NOBODY = "Nothing can be sent to this page."
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
        return self.get_response(request)

    def process_view(self, request, view, args, kwargs):
        """A refusal, or None where the person may go on."""
        if not getattr(view, "login_required", True) or not request.user.is_authenticated:
            return None
        name = request.resolver_match.url_name
        if name in WITHOUT_SCHOOL:
            return None
        if request.user.school_id is None:
            return render(request, "people/no_school.html", status=403)
        role = needed(name, request.method)
        if role is None:
            return _refused(request, NOBODY, 405)
        return None if request.user.is_at_least(role) else _refused(request, WHO[role], 403)


def _refused(request, words, status):
    return render(request, "people/refused.html", {"words": words}, status=status)

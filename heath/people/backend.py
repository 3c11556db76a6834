"""Who is signed in, read together with their school: every page needs both."""

from django.contrib.auth.backends import ModelBackend

from heath.people.models import User


class WithSchool(ModelBackend):
    """Django's own backend; the person comes with their school in one query."""

    def get_user(self, user_id):
        """The person of a session, or None where they are gone or kept out."""
        user = User.objects.select_related("school").filter(pk=user_id).first()
        return user if user is not None and self.user_can_authenticate(user) else None

"""What a person sets for themselves, and the people of a school."""

from secrets import token_urlsafe

from django import forms
from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth.forms import PasswordResetForm
from django.contrib.auth.views import LoginView
from django.db import transaction
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from heath.people.models import Role, School, User
from heath.people.once import once
from heath.people.policy import find, visible


class SignIn(LoginView):
    """Signing in; where the site belongs to one school, its name is shown."""

    template_name = "people/sign_in.html"
    redirect_authenticated_user = True

    def get_context_data(self, **kwargs):
        """The form, and the school's name where there is one school."""
        schools = list(School.objects.all()[:2])
        name = schools[0].name if len(schools) == 1 else ""
        return super().get_context_data(**kwargs) | {"school_name": name}


class PersonForm(forms.ModelForm):
    """A new person of a school; their password they set themselves, by a letter."""

    class Meta:
        model = User
        fields = ("username", "first_name", "last_name", "email", "role")
        labels = {"username": "Username", "email": "E-mail address", "role": "Role"}
        help_texts = {
            "username": "",
            "email": "The invitation goes there, with a link to set the password.",
        }

    def __init__(self, *args, **more):
        super().__init__(*args, **more)
        for name in ("first_name", "last_name", "email"):
            self.fields[name].required = True


@once
def people(request):
    """The people of the school, and adding one: they get a letter with a link to set their
    password.
    """
    form = PersonForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        person = form.save(commit=False)
        person.school = request.user.school
        # A password that nobody knows: with an unusable one no letter would be sent.
        person.set_password(token_urlsafe(32))
        person.save()
        _letter(request, person)
        messages.info(
            request,
            f"{person.shown_name} is invited. A letter to {person.email} says how to set the"
            " password.",
        )
        return redirect("people")
    found = visible(request.user, User).order_by("-is_active", "last_name", "username")
    return render(
        request,
        "people/people.html",
        {"people": found, "form": form, "roles": Role.choices},
        status=422 if form.errors else 200,
    )


@require_POST
def person(request, pk):
    """Change what somebody is, let them in or keep them out, end their sessions, or send the letter
    again. The last owner stays one.
    """
    what = request.POST.get("do", "")
    with transaction.atomic():
        owners = list(
            visible(request.user, User).select_for_update().filter(role=Role.OWNER, is_active=True)
        )
        one = find(request.user, User, pk=pk)
        last = owners == [one]
        if what in Role.values and not (last and what != Role.OWNER):
            one.role = what
        elif what in ("disable", "enable") and not (last and what == "disable"):
            one.is_active = what == "enable"
        elif what == "end":
            one.sign_outs += 1
        elif what == "letter":
            _letter(request, one)
            messages.info(request, f"A letter to {one.email} is on its way.")
        elif last:
            messages.error(request, "A school needs an owner. Make somebody else the owner first.")
        one.save(update_fields=["role", "is_active", "sign_outs"])
    return redirect("people")


@require_POST
def sign_out_everywhere(request):
    """End all sessions of this person but the one that asks."""
    request.user.sign_outs += 1
    request.user.save(update_fields=["sign_outs"])
    login(request, request.user, backend="heath.people.backend.WithSchool")
    messages.info(request, "You are signed out on all other devices.")
    return redirect("password")


def _letter(request, one) -> None:
    """Send somebody the letter by which a password is set."""
    form = PasswordResetForm({"email": one.email})
    if form.is_valid():
        form.save(
            request=request,
            use_https=request.is_secure(),
            subject_template_name="people/letter_subject.txt",
            email_template_name="people/letter.txt",
        )

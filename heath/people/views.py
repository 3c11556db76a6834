"""What a person sets for themselves, and the people of a school."""

from secrets import token_urlsafe

from django import forms
from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth.forms import PasswordResetForm
from django.contrib.auth.views import LoginView
from django.db import transaction
from django.http import Http404
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from heath.people.belonging import end_access, give_access, invited, members, set_role, work_in
from heath.people.models import Membership, Role, School, User
from heath.people.once import once
from heath.people.policy import MAY, find, visible
from heath.web.plain import whole


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
    """The people of the school, and adding one: a new person gets a letter with a link to set their
    password, one who has an account already chooses the school in their settings.
    """
    school = request.user.school
    form = PersonForm(request.POST or None)
    if request.method == "POST":
        known = invited(school, request.POST.get("email", "").strip(), _role(request))
        if known is not None:
            messages.info(
                request,
                f"{known.user.shown_name} has an account already, and belongs to {school} now. They"
                " change between their schools in their settings.",
            )
            return redirect("people")
        if form.is_valid():
            person = form.save(commit=False)
            person.school = school
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
    return render(
        request,
        "people/people.html",
        {"people": members(school), "form": form, "roles": Role.choices, "may": MAY},
        status=422 if form.errors else 200,
    )


def _role(request) -> str:
    role = request.POST.get("role", "")
    return str(role) if role in Role.values else str(Role.ASSISTANT)


@require_POST
def person(request, pk):
    """Change what somebody is, let them in or keep them out, end their sessions, or send the letter
    again. The last owner stays one.
    """
    what = request.POST.get("do", "")
    with transaction.atomic():
        owners = list(
            visible(request.user, Membership)
            .select_for_update()
            .filter(role=Role.OWNER, has_access=True)
        )
        one = find(request.user, Membership, "user", user_id=pk)
        last = owners == [one]
        if last and what not in (Role.OWNER, "end", "letter"):
            messages.error(request, "A school needs an owner. Make somebody else the owner first.")
        elif what in Role.values:
            set_role(one, what)
        elif what == "disable":
            end_access(one)
        elif what == "enable":
            give_access(one)
        elif what == "end":
            one.user.sign_outs += 1
            one.user.save(update_fields=["sign_outs"])
        elif what == "letter":
            _letter(request, one.user)
            messages.info(request, f"A letter to {one.user.email} is on its way.")
    return redirect("people")


@require_POST
def school_change(request):
    """Work in another of one's schools from now on."""
    number = whole(request.POST.get("school"))
    own = request.user.memberships.filter(has_access=True, school=number).first()
    if own is None:
        raise Http404
    work_in(request.user, own)
    messages.info(request, f"You are working in {own.school} now.")
    return redirect("term")


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

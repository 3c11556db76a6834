"""Settings: what a person sets for themselves, and the owner for the school."""

from zoneinfo import available_timezones

from django import forms
from django.contrib import messages
from django.core.validators import MaxValueValidator, MinValueValidator
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from heath.people.models import School, Surround, User

MOST_MONTHS = 240  # twenty years
UNITS = (("", "centimetres"), ("1", "inches"))


class UnitsField(forms.TypedChoiceField):
    """Centimetres or inches."""

    def __init__(self, **more):
        super().__init__(
            choices=UNITS,
            coerce=bool,
            empty_value=False,
            required=False,
            widget=forms.RadioSelect,
            **more,
        )

    def prepare_value(self, value):
        """What is chosen, of a kept value or one that was sent."""
        return "1" if value in (True, "1") else ""


class OwnForm(forms.ModelForm):
    """A person's own settings."""

    inches = UnitsField(label="Lengths in")
    surround = forms.ChoiceField(
        label="Grey around photographs", choices=Surround.choices, widget=forms.RadioSelect
    )

    class Meta:
        model = User
        fields = ("first_name", "last_name", "email", "inches", "surround")
        labels = {"email": "E-mail address"}


class SchoolForm(forms.ModelForm):
    """A school's settings."""

    time_zone = forms.ChoiceField(label="Time zone", required=False)
    inches = UnitsField(label="Lengths on students' pages and papers in")
    south = forms.TypedChoiceField(
        label="Seasons",
        choices=(("", "northern hemisphere"), ("1", "southern hemisphere")),
        coerce=bool,
        empty_value=False,
        required=False,
        widget=forms.RadioSelect,
    )

    class Meta:
        model = School
        fields = (
            "name",
            "time_zone",
            "south",
            "inches",
            "hides_names",
            "picture_months",
            "record_months",
        )
        labels = {
            "name": "Name of the school",
            "hides_names": "Hide names in new briefs",
            "picture_months": "Months to keep photographs after a class is archived",
            "record_months": "Months to keep students' records after a class is archived",
        }
        help_texts = {
            "picture_months": "Empty: until somebody deletes them. Measures and marks stay.",
            "record_months": "Empty: until somebody deletes them. Each deletion has a receipt.",
        }

    def __init__(self, *args, **more):
        super().__init__(*args, **more)
        for name in ("picture_months", "record_months"):
            self.fields[name].validators.append(MinValueValidator(1))
            self.fields[name].validators.append(MaxValueValidator(MOST_MONTHS))
        usual = f"as the site: {timezone.get_default_timezone_name()}"
        zones = [(z, z.replace("_", " ")) for z in sorted(available_timezones()) if "/" in z]
        self.fields["time_zone"].choices = [("", usual), *zones]
        if not self.is_bound:
            self.initial["south"] = "1" if self.instance.south else ""


def own_settings(request):
    """A person's settings, and the school's for its owner."""
    form = OwnForm(request.POST or None, instance=request.user)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.info(request, "Your settings are saved.")
        return redirect("settings")
    return _page(request, form, None)


@require_POST
def school_settings(request):
    """The school's settings, by its owner."""
    form = SchoolForm(request.POST, instance=request.user.school)
    if form.is_valid():
        form.save()
        messages.info(request, "The school's settings are saved.")
        return redirect("settings")
    return _page(request, None, form)


def _page(request, own, school):
    context = {
        "own": own or OwnForm(instance=User.objects.get(pk=request.user.pk)),
        "memberships": request.user.memberships.filter(has_access=True).select_related("school"),
    }
    if request.user.owns and request.user.school_id:
        fresh = School.objects.get(pk=request.user.school_id)
        context["school"] = school or SchoolForm(instance=fresh)
    faulty = any(form is not None and form.errors for form in (own, school))
    return render(request, "people/settings.html", context, status=422 if faulty else 200)


class Zone:
    """Middleware: times are told in the time zone of the person's school."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        user = request.user
        school = user.school if user.is_authenticated else None
        with timezone.override(school.zone if school else None):
            return self.get_response(request)

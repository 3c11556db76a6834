"""The form of a brief."""

import re

from django import forms

from heath.assessment.models import View
from heath.briefs.backdrops import BackdropSelect
from heath.briefs.models import SUPPORTS, Brief
from heath.briefs.setting_out import SetOut
from heath.briefs.vessels import LEAST, read_vessels, summed_up
from heath.classes.models import Course
from heath.people.policy import visible
from heath.rulebook.patterns import PATTERNS
from heath.rulebook.sets import RULE_SETS
from heath.shelf.models import LENGTH, Container
from heath.web.length_field import LengthField
from juniper.lengths import number
from juniper.planning import NEAR
from juniper.rules import KINDS

# fields of a single container, which a composition fills in by itself
SINGLE = ("container", "container_height_cm", "container_width_cm")
WHOLE = 100  # what the parts of the colours make together
GROUPS = (
    (
        "The brief and its place",
        "place",
        ("name", "course", "viewpoint", "views", "near", "closes_at", "setting"),
    ),
    (
        "Vessels",
        "container",
        (
            "kind",
            "support",
            "shelf_container",
            "container",
            "container_height_cm",
            "container_width_cm",
            "made_of",
            "vessels",
        ),
    ),
    (
        "Form, pattern and colours",
        "form",
        (
            "form",
            "pattern",
            "material",
            "scheme",
            "with_green",
            "count_parts",
            "split",
            "most_kinds",
            "rings",
        ),
    ),
    ("School and marks", "school", ("rule_set", "pass_mark")),
)


class ShelfSelect(forms.Select):
    """The containers of the shelf; each option carries what it fills in."""

    def create_option(self, name, value, label, selected, index, subindex=None, attrs=None):
        """As Django does, with the container's name and sizes as data."""
        option = super().create_option(name, value, label, selected, index, subindex, attrs)
        one = getattr(value, "instance", None)
        if one is not None:
            option["attrs"] |= {"data-container": one.name}
            if one.measured:
                option["attrs"] |= {
                    "data-container_height_cm": number(float(one.height_cm), None),
                    "data-container_width_cm": number(float(one.width_cm), None),
                }
        return option


class BriefForm(forms.ModelForm):
    """A brief, with the classes and schools the person may choose from."""

    views = forms.MultipleChoiceField(
        label="Photographed from",
        required=False,
        choices=View.choices,
        widget=forms.CheckboxSelectMultiple,
    )
    closes_at = forms.DateTimeField(
        label="Photographs may be added until",
        required=False,
        help_text="Left empty, a students' link ends after a fortnight.",
        widget=forms.DateTimeInput(attrs={"type": "datetime-local"}, format="%Y-%m-%dT%H:%M"),
    )
    rule_set = forms.ChoiceField(label="School")
    pattern = forms.ChoiceField(label="Pattern", required=False)
    vessels = forms.CharField(required=False, widget=SetOut, label="Set out")
    container_height_cm = LengthField(label="Height", validators=LENGTH)
    container_width_cm = LengthField(label="Greatest width", validators=LENGTH)
    near = forms.MultipleChoiceField(
        label="It will stand",
        required=False,
        choices=[(k, asks) for k, (asks, _) in NEAR.items()],
        widget=forms.CheckboxSelectMultiple,
        help_text="The plan then warns of what must not stand there.",
    )

    class Meta:
        model = Brief
        fields = (
            "name",
            "course",
            "shelf_container",
            "kind",
            "support",
            "pattern",
            "container",
            "container_height_cm",
            "container_width_cm",
            "made_of",
            "material",
            "rings",
            "viewpoint",
            "form",
            "rule_set",
            "scheme",
            "with_green",
            "split",
            "setting",
            "most_kinds",
            "near",
            "count_parts",
            "pass_mark",
            "views",
            "closes_at",
        )
        widgets = {
            "shelf_container": ShelfSelect(attrs={"data-fills": True}),
            "setting": BackdropSelect(),
        }
        help_texts = {
            "kind": (
                "A hand-tied bunch has its stems below the tie in the place of a container; a"
                " garland the edge that it lies on, and how far it is to fall."
            ),
            "split": "Three parts that make 100, the largest first: 60 : 30 : 10.",
            "made_of": (
                "Clear glass is asked about its water; a tall basket has no upper limit of height."
            ),
            "rings": (
                "Heads of each ring, the outermost first, such as 6, 6, 6; seen in the photograph"
                " from above."
            ),
            "material": (
                "Very large blooms stand lower; a piece without flowers is judged by its texture."
            ),
        }
        labels = {
            "name": "Name of the brief",
            "shelf_container": "Container from the shelf",
            "course": "Class",
            "container": "Name",
            "made_of": "Made of",
            "kind": "The piece is made in",
            "support": "It stands on a",
            "material": "The piece is made of",
            "rings": "Rings of one flower",
            "viewpoint": "Seen from",
            "form": "Form",
            "scheme": "Colour scheme",
            "with_green": "Green foliage belongs to the scheme",
            "split": "First, second and other colours",
            "setting": "Wall or cloth behind it",
            "count_parts": "Baubles, candles and ribbon count in colours and shares",
            "most_kinds": "Kinds of main flower, at the most",
            "pass_mark": "Pass mark, of 100",
        }

    def __init__(self, *args, user, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["course"].queryset = visible(user, Course)
        self.fields["course"].empty_label = None
        self.user = user
        self.fields["rule_set"].choices = RULE_SETS.choices(user.school)
        self.fields["pattern"].choices = [
            ("", "the usual one of form and school"),
            *PATTERNS.choices(user.school, by_name=True),
        ]
        self.fields["vessels"].wide = True
        self.initial.setdefault("vessels", self.instance.vessels)
        self.fields["vessels"].widget.shelf = visible(user, Container)
        self.fields["kind"].required = self.fields["support"].required = False
        if self.asks_for_several:
            for name in SINGLE:
                self.fields[name].required = False
        self.fields["shelf_container"].queryset = visible(user, Container)
        self.fields["shelf_container"].empty_label = "none: a container by its sizes"
        self.initial.setdefault("views", ["front"])
        self.fields["most_kinds"].required = self.fields["material"].required = False
        self.fields["setting"].wide = True  # its swatches take a whole row
        for field in self.fields.values():
            field.error_messages["required"] = "This is still to be filled in."

    @property
    def asks_for_several(self) -> bool:
        """Whether what was sent, or else the brief, is of several vessels."""
        kind = self.data.get("kind") if self.is_bound else getattr(self.instance, "kind", "")
        return kind == "several vessels"

    def clean_kind(self):
        """One vessel, unless the brief says otherwise."""
        return self.cleaned_data["kind"] or KINDS[0]

    def clean_support(self):
        """A table, unless the brief says otherwise."""
        return self.cleaned_data["support"] or SUPPORTS[0]

    def clean_vessels(self):
        """The vessels as they were set out; a composition has two at the least."""
        rows = read_vessels(self.cleaned_data["vessels"], self.user)
        if self.asks_for_several and len(rows) < LEAST:
            raise forms.ValidationError(
                "A composition has two vessels or more: add them, and set them out."
            )
        return rows

    @property
    def groups(self):
        """(title, id, fields) of each part of the form, in order."""
        return [(title, key, [self[name] for name in names]) for title, key, names in GROUPS]

    def clean_split(self):
        """Parts that lead somewhere: the largest first, together 100."""
        text = self.cleaned_data["split"]
        parts = [int(p) for p in re.findall(r"\d+", text)]
        if parts and (sum(parts) != WHOLE or sorted(parts, reverse=True) != parts):
            raise forms.ValidationError(
                f"These parts make {sum(parts)}, or are not the largest first. Write three parts"
                " that make 100, such as 60 : 30 : 10."
            )
        return text

    def clean_most_kinds(self):
        """Three, unless the brief says otherwise (common practice)."""
        return self.cleaned_data["most_kinds"] or Brief._meta.get_field("most_kinds").default

    def clean_material(self):
        """Flowers, unless the brief says otherwise."""
        return self.cleaned_data["material"] or Brief._meta.get_field("material").default

    def clean_views(self):
        """The front is always asked for: measuring rests on it."""
        chosen = self.cleaned_data["views"]
        return [v for v in View.values if v in chosen or v == View.FRONT]

    def _keep_pattern_version(self, cleaned):
        """A brief keeps to the version of a pattern that is the newest when it takes it up."""
        course, slug = cleaned.get("course"), cleaned.get("pattern")
        if course and (slug != self.initial.get("pattern") or not slug):
            own = PATTERNS.released(course.school, slug) if slug else None
            self.instance.pattern_version = own.number if own else None

    def save(self, commit=True):
        """A new brief hides names where the school begins with that."""
        self.instance.vessels = self.cleaned_data.get("vessels") or []
        if self.instance.pk is None:
            self.instance.names_hidden = self.instance.course.school.hides_names
        return super().save(commit)

    def clean(self):
        """A brief keeps to the version that is the newest when it takes a rule set up."""
        cleaned = super().clean()
        if cleaned.get("kind") == "several vessels" and cleaned.get("vessels"):
            for name, value in summed_up(cleaned["vessels"]).items():
                cleaned[name] = value
                setattr(self.instance, name, value)
        self._keep_pattern_version(cleaned)
        course, slug = cleaned.get("course"), cleaned.get("rule_set")
        if (
            course
            and slug
            and (slug != self.initial.get("rule_set") or self.instance.rule_set_version is None)
        ):
            own = RULE_SETS.released(course.school, slug)
            self.instance.rule_set_version = own.number if own else None
        return cleaned

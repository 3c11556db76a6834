"""What an instructor writes at the bench: scores, ceilings, remarks, answers."""

from __future__ import annotations

from django import forms
from django.core.validators import MaxValueValidator, MinValueValidator

from juniper.rules import FAMILIES

REASON_MOST = 300  # letters of a reason or a remark
SAY_WHY = "Write a short reason; the student reads it too."


class Words(forms.CharField):
    """A line of words; white space between them counts once."""

    def __init__(self, *, missing: str, what: str):
        super().__init__(error_messages={"required": missing})
        self.what = what

    def to_python(self, value):
        """The words with single spaces between them."""
        return " ".join((value or "").split())

    def run_validators(self, value):
        """As Django does, and no more letters than a sheet has room for."""
        super().run_validators(value)
        if len(value) > REASON_MOST:
            raise forms.ValidationError(
                f"The {self.what} has {len(value)} letters; {REASON_MOST} is the most."
            )


class Figure(forms.FloatField):
    """A number with a point or a comma."""

    def to_python(self, value):
        """The number; None where nothing was written."""
        return super().to_python((value or "").strip().replace(",", "."))


class BenchForm(forms.Form):
    """A form of the bench, whose first fault is told where it stands."""

    @property
    def fault(self) -> str:
        """The first fault in words, in the order of the fields; '' without one."""
        return next((e for errors in self.errors.values() for e in errors), "")


class ScoreForm(BenchForm):
    """A rule's score set by hand, or the rule waived."""

    score = Figure(
        required=False,
        error_messages={"invalid": "Write the score as a number from 0 to 10, or waive the rule."},
        validators=[
            MinValueValidator(0, "Write a score between 0 and 10."),
            MaxValueValidator(10, "Write a score between 0 and 10."),
        ],
    )
    waive = forms.BooleanField(required=False)
    reason = Words(missing=SAY_WHY, what="reason")

    def __init__(self, data):
        super().__init__(data)
        if data.get("waive") == "1":
            self.fields["score"] = forms.CharField(required=False)
        else:
            self.fields["score"].required = True
            words = self.fields["score"].error_messages["invalid"]
            self.fields["score"].error_messages["required"] = words

    @property
    def given(self) -> float | None:
        """The score that was set, None where the rule is waived."""
        return None if self.cleaned_data["waive"] else self.cleaned_data["score"]


class CapForm(BenchForm):
    """The highest mark that a family (out of ten) or the whole (out of 100) may have."""

    family = forms.ChoiceField(
        required=False, choices=[("", "the whole"), *((f, f) for f in FAMILIES)]
    )
    at = Figure()
    reason = Words(missing=SAY_WHY, what="reason")

    def __init__(self, data):
        super().__init__(data)
        most = 10 if data.get("family") else 100
        asked = f"Write the highest mark as a number from 0 to {most}."
        outside = f"Write a number between 0 and {most}."
        self.fields["at"].error_messages |= {"invalid": asked, "required": asked}
        self.fields["at"].validators += [
            MinValueValidator(0, outside),
            MaxValueValidator(most, outside),
        ]


class RemarkForm(BenchForm):
    """A comment on the piece, or pinned to a spot of the picture (its pixels)."""

    words = Words(missing="Write what the student should read at this spot.", what="remark")
    x = forms.FloatField(required=False, min_value=0)
    y = forms.FloatField(required=False, min_value=0)

    def __init__(self, data, photograph):
        super().__init__(data)
        self.photograph = photograph
        for name, most in (("x", photograph.width), ("y", photograph.height)):
            self.fields[name].validators.append(MaxValueValidator(most))

    @property
    def misplaced(self) -> bool:
        """Whether its spot is none of this picture."""
        placed = {n for n in ("x", "y") if self.data.get(n)}
        return bool(placed) and (len(placed) == 1 or bool(placed & self.errors.keys()))

    @property
    def spot(self) -> dict:
        """What of the remark says where it is pinned; without a spot it is on the whole piece."""
        if self.cleaned_data["x"] is None:
            return {"photograph": None}
        at = {"x": self.cleaned_data["x"], "y": self.cleaned_data["y"]}
        return {"photograph": self.photograph} | at

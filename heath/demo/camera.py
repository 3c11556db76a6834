"""The camera's stand-in: takes the next picture from the simulated roll, with the faults chosen,
for want of a real phone.
"""

from io import BytesIO

from django import forms
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET

from heath.assessment.models import Piece
from heath.briefs.models import Brief
from heath.intake.arriving import receive
from heath.people.policy import visible
from heath.web.plain import whole
from juniper.camera import FAULTS, PHONE, Shot, frame, frames, take, with_fault
from juniper.camera.roll import TRIALS, composition, compositions

KINDS = (
    ("jpg", "JPEG"),
    ("heic", "HEIC"),
    ("sideways", "JPEG stored sideways"),
    ("p3", "JPEG in Display P3"),
)


class CameraForm(forms.Form):
    """What the simulated photographer does."""

    scene = forms.ChoiceField(label="What stands before it")
    piece = forms.ChoiceField(label="Whose card stands beside it", required=False)
    faults = forms.MultipleChoiceField(
        label="What goes wrong",
        required=False,
        choices=[(f, f) for f in FAULTS],
        widget=forms.CheckboxSelectMultiple,
    )
    strength = forms.FloatField(
        label="How much",
        min_value=0,
        max_value=1,
        initial=0.5,
        widget=forms.NumberInput(attrs={"type": "range", "step": "0.1"}),
    )
    kind = forms.ChoiceField(label="File", choices=KINDS)
    twelve = forms.BooleanField(label="Twelve megapixels", required=False)

    def __init__(self, *args, user, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["scene"].choices = [
            *((f"{f.piece}-{f.view}", _words(f)) for f in frames()),
            *((name, f"composition: {name.replace('-', ' ')}") for name in compositions()),
        ]
        pieces = (
            visible(user, Piece)
            .select_related("student", "brief")
            .order_by("-brief__made_at", "student__sorting")
        )
        self.fields["piece"].choices = [
            ("", "no card"),
            *((p.pk, f"{p.student.name}: {p.brief.name}") for p in pieces),
        ]

    def picture(self):
        """The picture and a file name for it."""
        said = self.cleaned_data
        one, name = _stands_before(said["scene"])
        piece = Piece.objects.get(pk=said["piece"]) if said["piece"] else None
        high, wide = one.labels.shape[:2]
        shot = Shot(
            size=(PHONE if high >= wide else PHONE[::-1]) if said["twelve"] else (wide, high),
            code=piece.code if piece else None,
            kind="HEIC" if said["kind"] == "heic" else "JPEG",
            orientation=6 if said["kind"] == "sideways" else 1,
            profile="Display P3" if said["kind"] == "p3" else "sRGB",
            place=True,
        )
        for fault in said["faults"]:
            shot = with_fault(shot, fault, said["strength"], one)
        done = take(one, shot)
        return done, f"picture-{name}.{done.ending}"


def _stands_before(scene: str):
    """The frame of the roll, or the composition, that a choice names; and a name for its file."""
    if scene in compositions():
        return composition(scene), scene
    number, view = scene.split("-")
    return frame(int(number), view), f"{int(number) + 1:02d}-{view}"


def _words(one) -> str:
    """A frame of the roll in the words of the list."""
    badly = " (badly taken)" if one.view in TRIALS else ""
    kind, form = one.truth["container"]["kind"], one.truth["form"]
    return f"{one.piece + 1}, {one.view}{badly}: {kind}, {form}"


def camera(request):
    """The camera: choose what it sees, take the picture, and send it to a brief."""
    form = CameraForm(
        request.POST or None,
        user=request.user,
        initial={"scene": "0-front", "strength": 0.5, "kind": "jpg"},
    )
    briefs = visible(request.user, Brief)
    if request.method == "POST" and form.is_valid():
        brief = briefs.filter(pk=whole(request.POST.get("brief")) or 0).first()
        done, name = form.picture()
        if brief is None:
            answer = HttpResponse(
                done.data, content_type="image/heic" if done.ending == "heic" else "image/jpeg"
            )
            answer["Content-Disposition"] = f'attachment; filename="{name}"'
            return answer
        receive(brief, SimpleUploadedFile(name, done.data), user=request.user)
        return redirect("intake", pk=brief.pk)
    return render(request, "demo/camera.html", {"form": form, "briefs": briefs})


@require_GET
def picture(request):
    """What the camera's finder shows: the picture as it would be taken, at screen size."""
    form = CameraForm(request.GET, user=request.user)
    if not form.is_valid():
        return HttpResponse(status=422)
    from PIL import Image, ImageOps

    form.cleaned_data |= {"twelve": False}
    done, _ = form.picture()
    image = ImageOps.exif_transpose(Image.open(BytesIO(done.data))).convert("RGB")
    out = BytesIO()
    image.save(out, "JPEG", quality=85)
    return HttpResponse(out.getvalue(), content_type="image/jpeg")

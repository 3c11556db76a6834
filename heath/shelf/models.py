"""The school's shelf: containers whose sizes and shapes are known."""

import secrets

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from pydantic import TypeAdapter

from juniper.scene import ContainerShape

SHAPE = TypeAdapter(ContainerShape)
LENGTH = [
    MinValueValidator(1, "A container is at least 1 cm: measure it and put the figure here."),
    MaxValueValidator(300, "That is over 3 metres: is the figure in centimetres?"),
]
# a box seen from in front looks wider than it is; how far height : width as measured and as seen
# may differ, relative, for the shape to be believed
ALIKE = 0.15

# what a container is made of, as far as rules and plans depend on it
WALLS = [("opaque", "pottery, wood or metal"), ("clear", "clear glass"), ("basket", "basketry")]


def picture_path(instance, name):
    """Where the picture of the empty container is kept; the user's own file name is never used."""
    return f"shelf/{secrets.token_urlsafe(16)}.jpg"


class Container(models.Model):
    """A container of a school. `shape` is what was read from its photograph, as the core
    has it: None while none was taken; `sides` the outline on that picture, in its pixels.
    """

    school = models.ForeignKey("people.School", on_delete=models.CASCADE, related_name="containers")
    name = models.CharField(max_length=80)
    height_cm = models.DecimalField(max_digits=5, decimal_places=1, null=True, validators=LENGTH)
    width_cm = models.DecimalField(max_digits=5, decimal_places=1, null=True, validators=LENGTH)
    shape = models.JSONField(null=True)
    sides = models.JSONField(default=list)
    made_of = models.CharField(
        max_length=10, blank=True, default="", choices=[("", "as its picture shows"), *WALLS]
    )
    picture = models.FileField(upload_to=picture_path, blank=True)
    picture_width = models.PositiveIntegerField(default=0)
    picture_height = models.PositiveIntegerField(default=0)
    by_card = models.BooleanField(default=False)
    added_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    added_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("name", "pk")

    def __str__(self):
        return self.name

    @property
    def container_shape(self) -> ContainerShape | None:
        """Its shape as the core reads it, as far as it is believed: None when its sizes as measured
        say something else.
        """
        return SHAPE.validate_python(self.shape) if self.shape and not self.differs else None

    @property
    def wall(self) -> str:
        """What it is made of, one of WALLS: as said, else as its picture shows."""
        shape = self.container_shape
        return self.made_of or ("clear" if shape and shape.clear else "opaque")

    @property
    def measured(self):
        """Whether both sizes are known."""
        return self.height_cm is not None and self.width_cm is not None

    @property
    def differs(self) -> bool:
        """Whether the picture shows another shape than the sizes say: its rim was not followed, as
        of clear glass, or a size is wrong.
        """
        if not self.shape or not self.measured:
            return False
        seen = SHAPE.validate_python(self.shape).width
        return abs(seen * float(self.height_cm) / float(self.width_cm) - 1) > ALIKE

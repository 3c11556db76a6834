"""Pieces and their photographs."""

import secrets
from functools import cached_property

from django.db import models
from pydantic import TypeAdapter

from juniper.scene import Raster, Scene

SCENE = TypeAdapter(Scene)


class Piece(models.Model):
    """What one student makes for one brief."""

    class State(models.TextChoices):
        WAITING = "waiting", "waits for a photograph"
        MEASURING = "measuring", "being measured"
        FAILED = "failed", "photograph cannot be used"
        MARKING = "marking", "to be marked"
        MARKED = "marked", "marked"
        RETURNED = "returned", "returned"

    brief = models.ForeignKey("briefs.Brief", on_delete=models.CASCADE, related_name="pieces")
    student = models.ForeignKey("classes.Student", on_delete=models.CASCADE, related_name="pieces")
    state = models.CharField(max_length=12, choices=State, default=State.WAITING)

    class Meta:
        constraints = [models.UniqueConstraint(fields=("brief", "student"), name="one_piece_each")]

    def __str__(self):
        return f"{self.student}: {self.brief}"

    @cached_property
    def photograph(self):
        """The photograph in force: the newest that is current, or None."""
        return next((p for p in sorted(self.photographs.all(), key=lambda p: -p.pk) if p.current), None)

    @property
    def latest_sheet(self):
        """The newest return sheet, or None."""
        return max(self.sheets.all(), key=lambda s: s.version, default=None)

    def latest_sheet_version(self):
        """Version of the newest return sheet, or 0."""
        return self.latest_sheet.version if self.latest_sheet else 0


def _path(kind):
    return f"{kind}/{secrets.token_urlsafe(16)}"


def full_path(instance, name):
    """Where the full-size upright copy is kept; the user's own file name is never used."""
    return _path("full") + ".jpg"


def screen_path(instance, name):
    """Where the screen-size copy is kept."""
    return _path("screen") + ".jpg"


def raster_path(instance, name):
    """Where the label raster is kept."""
    return _path("raster") + ".png"


class Photograph(models.Model):
    """A photograph of a piece: upright copies without metadata, and what was seen in it."""

    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, related_name="photographs")
    current = models.BooleanField(default=True)
    full = models.FileField(upload_to=full_path)
    screen = models.FileField(upload_to=screen_path)
    raster = models.FileField(upload_to=raster_path, blank=True)
    raster_scale = models.FloatField(default=1.0)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    digest = models.CharField(max_length=64, db_index=True)
    taken = models.CharField(max_length=60, blank=True)
    camera = models.CharField(max_length=60, blank=True)
    advice = models.JSONField(default=list)
    scene = models.JSONField(null=True)
    core_version = models.CharField(max_length=20, blank=True)
    fault = models.TextField(blank=True)
    added_at = models.DateTimeField(auto_now_add=True)
    added_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)

    class Meta:
        ordering = ("-pk",)

    def __str__(self):
        return f"photograph {self.pk} of {self.piece}"

    def core_scene(self) -> Scene:
        """The scene found automatically, as the core made it."""
        return SCENE.validate_python(self.scene)

    def keep_scene(self, scene: Scene):
        """Set the scene found automatically."""
        self.scene = SCENE.dump_python(scene, mode="json")

    def core_raster(self) -> Raster:
        """The label raster."""
        with self.raster.open("rb") as file:
            return Raster.unpacked(file.read(), self.raster_scale)

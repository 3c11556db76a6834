"""How the camera looked at the piece: its pitch and focal length, and the upright plane through the
container's axis seen by them.

A camera held high or near shortens the container more than the plant. Foot and rim of a round
container show as ellipses, whose short axis over the long one is the sine of the angle at which
they are looked down upon; the picture is then rectified onto the axis's own plane (a plane
homography; Hartley & Zisserman 2004, 8.1).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from juniper.values import Point


@dataclass(frozen=True)
class PoseSettings:
    """What is believed of cameras before a picture is seen, and how ellipses are read."""

    usual_deg: float = 4.0  # pitch of phones held at a piece: mean ...
    # ... and standard deviation (common practice: at the rim's height, or from the eye)
    usual_doubt_deg: float = 6.0
    # Focal length over the picture's longer side where the photograph does not tell it: median, and
    # standard deviation of its logarithm. A phone's main camera has .72 (26 mm on 36 mm film), its
    # second 1.4; pictures are cropped, too (common practice).
    usual_focal: float = 1.0
    focal_doubt: float = 0.35
    # relative, where the photograph tells it: lenses are named by round figures
    told_doubt: float = 0.03
    # of an ellipse's short over long axis, beside what its points are uncertain by
    openness: float = 0.035
    steepest: float = 0.9  # an openness over this is no container looked at from aside
    pitches: tuple[float, float, int] = (-15.0, 40.0, 111)  # degrees tried: from, to, how many
    focals: int = 41  # focal lengths tried, within 2.5 standard deviations


POSE = PoseSettings()
WORTH_SAYING = 2.0  # degrees: below this the correction is under a hundredth at the usual distance


@dataclass(frozen=True)
class Ellipse:
    """A foot or rim seen: the row of its `middle` below the picture's principal point, in pixels
    along the axis downward; `openness` short axis over long one, and its standard uncertainty.
    """

    middle: float
    openness: float
    doubt: float


@dataclass(frozen=True)
class Pose:
    """The camera: `pitch` in radians, looking down above 0, with its standard uncertainty at a
    known focal length; `focal` in pixels, with its relative uncertainty; `tied` by how much the
    pitch changes where the logarithm of the focal length does, since an ellipse tells the angle of
    its own ray; `centre` the principal point.
    """

    pitch: float
    doubt: float
    focal: float
    focal_doubt: float
    centre: Point
    tied: float = 0.0

    def scaled(self, factor: float) -> Pose:
        """The same camera for the picture enlarged by `factor`."""
        return replace(
            self,
            focal=self.focal * factor,
            centre=(self.centre[0] * factor, self.centre[1] * factor),
        )

    def shifted(self, pitch: float = 0.0, focal: float = 0.0) -> Pose:
        """A pose off by `pitch` radians, or by a relative `focal` length with the pitch that goes
        with it.
        """
        return replace(
            self, pitch=self.pitch + pitch + self.tied * focal, focal=self.focal * (1 + focal)
        )

    @property
    def degrees(self) -> float:
        """Pitch in degrees."""
        return float(np.degrees(self.pitch))

    @property
    def matters(self) -> bool:
        """Whether the camera was so far from level that it is worth saying."""
        return abs(self.degrees) >= WORTH_SAYING

    @property
    def words(self) -> str:
        """What measures are corrected for, as in "corrected for a camera held 9 degrees high"."""
        return (
            f"corrected for a camera held {abs(self.degrees):.0f} degrees"
            f" {'high' if self.degrees > 0 else 'low'}"
        )


def pose_of(
    ellipses: list[Ellipse],
    long: float,
    told: float | None,
    centre: Point,
    settings: PoseSettings = POSE,
) -> Pose:
    """Pitch and focal length by the ellipses of foot and rim, weighed with what is usual (Bayes, on
    a grid of both). `long` is the picture's longer side in pixels, `told` the focal length over it
    that the photograph told, or None.
    """
    middle, spread = (
        (settings.usual_focal, settings.focal_doubt)
        if told is None
        else (told, settings.told_doubt)
    )
    pitch = np.radians(np.linspace(*settings.pitches))[:, None]
    log = np.log(middle) + spread * np.linspace(-2.5, 2.5, settings.focals)[None]
    usual, loose = np.radians(settings.usual_deg), np.radians(settings.usual_doubt_deg)
    odds = -0.5 * ((pitch - usual) / loose) ** 2 - 0.5 * ((log - np.log(middle)) / spread) ** 2
    for one in ellipses:
        if one.openness <= settings.steepest:
            opens = np.sin(pitch + np.arctan(one.middle / (long * np.exp(log))))
            odds = (
                odds - 0.5 * ((opens - one.openness) / np.hypot(one.doubt, settings.openness)) ** 2
            )
    weight = np.exp(odds - odds.max())
    weight /= weight.sum()

    def mean(values: np.ndarray) -> float:
        return float((weight * values).sum())

    p, f = mean(pitch), mean(log)
    variance, common = mean((log - f) ** 2), mean((log - f) * (pitch - p))
    tied = common / max(variance, 1e-9)
    left = max(mean((pitch - p) ** 2) - tied * common, 0.0)
    return Pose(
        p, float(np.sqrt(left)), long * float(np.exp(f)), float(np.sqrt(variance)), centre, tied
    )


@dataclass(frozen=True, eq=False)
class Plane:
    """The upright plane through an axis that stands before a camera: places on it are heights and
    distances from the axis, in units of the picture's pixels at its principal point.
    """

    pose: Pose
    up: np.ndarray

    @cached_property
    def _turned(self) -> np.ndarray:
        """What turns a step in the picture to (down, across), (2, 2)."""
        return np.array([[-self.up[0], -self.up[1]], [-self.up[1], self.up[0]]]).T

    @cached_property
    def _lens(self) -> tuple[float, float, float]:
        """Cosine and sine of the camera's pitch, and its focal length."""
        return float(np.cos(self.pose.pitch)), float(np.sin(self.pose.pitch)), self.pose.focal

    def of(self, points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """(height, aside) on the plane of points (n, 2) of the picture, from where the camera's
        level line meets the plane.
        """
        below, across = ((np.asarray(points, float) - self.pose.centre) @ self._turned).T
        c, s, f = self._lens
        nearer = c - below / f * s
        return -(f * s + below * c) / nearer, across / nearer

    def at(self, height: np.ndarray, across: np.ndarray) -> np.ndarray:
        """Points (n, 2) of the picture at places on the plane; inverse of of()."""
        c, s, f = self._lens
        height, across = np.asarray(height, float), np.asarray(across, float)
        below = -(height * c + f * s) / (c - height / f * s)
        nearer = c - below / f * s
        down, right = self._turned.T
        return self.pose.centre + below[..., None] * down + (across * nearer)[..., None] * right

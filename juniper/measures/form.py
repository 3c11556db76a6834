"""Form: the taught outlines, fitted to a piece's own height and width, and how far it fills or
leaves them.

Outlines are the trade's common ones (common practice, no single source), drawn in half widths
across and plant heights up from the rim. A fit may stretch an outline, lean it, shift it along the
rim and, for a form with a heavy side, mirror it, within limits; what is compared is area, by
intersection over union. Since a fit takes the piece's own height and width, what these are to each
other is judged beside it: a fan is twice as wide as high, a vertical piece half as wide at the
most. A piece is held against every other form as well, and what one of them fits better is taken
off.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cache, cached_property
from itertools import product
from typing import NamedTuple

import cv2
import numpy as np

from juniper.measures.finding import EvidenceMark
from juniper.measures.surface import View


@dataclass(frozen=True)
class FormSettings:
    """How a form is laid over an outline.

    Where no source is named: set by trial on simulated pieces (bin/trials perfect).
    """

    cells: int = 72  # across the longer side of what is compared
    # of the piece's own height and width: twigs reach further than the form they draw
    stretch: tuple[float, float, float] = (0.82, 0.91, 1.0)
    leans: tuple[float, float, float] = (-8.0, 0.0, 8.0)  # degrees
    shifts: tuple[float, float, float] = (-0.1, 0.0, 0.1)  # of half the width, along the rim
    never: float = 0.5  # of the overlap is left to a piece whose aspect lies past a form's limits
    # of the outline's area, from which a part that breaks out or falls short is drawn
    out: float = 0.04
    short: float = 0.04


FORM_FIT = FormSettings()


# Plant width over plant height: limit, ideal from, ideal to, limit (common practice, from memory;
# of a dome and a fan as they are drawn).
ASPECTS = {
    "symmetrical triangle": (0.45, 0.6, 1.3, 1.7),
    "right-angle L": (0.4, 0.55, 1.15, 1.5),
    "crescent": (0.6, 0.8, 1.8, 2.4),
    "S-curve": (0.35, 0.5, 1.2, 1.6),
    "vertical": (0.08, 0.15, 0.6, 0.8),
    "horizontal": (1.7, 2.2, 5.0, 7.0),
    "round": (0.7, 0.9, 2.4, 3.6),
    "fan": (0.75, 1.0, 2.2, 2.7),
    "three-stem": (0.45, 0.7, 1.4, 1.9),
    "cascade": (0.6, 0.9, 2.4, 3.4),
}
# forms that hang below the rim: an upright piece is not held against them
HANGING = frozenset({"cascade"})


def _arc(start: float, stop: float, count: int = 17) -> np.ndarray:
    return np.radians(np.linspace(start, stop, count))


def _band(
    bend: tuple[float, float], tip: tuple[float, float], foot_wide: float, tip_wide: float
) -> np.ndarray:
    """A tapering arm from the rim's middle along a bent line (m, 2)."""
    t = np.linspace(0, 1, 15)[:, None]
    line = 2 * t * (1 - t) * np.array(bend) + t**2 * np.array(tip)
    way = np.gradient(line, axis=0)
    aside = np.column_stack([-way[:, 1], way[:, 0]]) / np.maximum(
        np.linalg.norm(way, axis=1, keepdims=True), 1e-9
    )
    wide = foot_wide + (tip_wide - foot_wide) * t
    return np.vstack([line + aside * wide, (line - aside * wide)[::-1]])


@cache
def outlines(form: str) -> tuple[np.ndarray, ...]:
    """The parts (m, 2) whose union is a form: x from -1 to 1 across its width, y up to 1 in heights
    over the rim. Raises KeyError for one not taught.

    >>> [part.tolist() for part in outlines('symmetrical triangle')]
    [[[-1.0, 0.0], [-0.5, 0.42], [0.0, 1.0], [0.5, 0.42], [1.0, 0.0], [0.5, -0.08], [-0.5, -0.08]]]
    """
    parts = _taught()[form]
    points = np.vstack(parts)
    low, high = points[:, 0].min(), points[:, 0].max()
    return tuple(
        (part - [(low + high) / 2, 0]) / [(high - low) / 2, points[:, 1].max()] for part in parts
    )


JOIN = 800.0  # steps to a half width and a height: parts of a form are joined to so much
SMOOTH = 1.5  # of these steps: how far a joined line may lie from the edge of its parts


@cache
def joined_outline(form: str) -> tuple[np.ndarray, ...]:
    """A form as it is drawn: its parts joined where they overlap, without the seam between them.

    Args:
        form: one that is taught.

    Returns:
        Closed lines (m, 2), as outlines() gives them: one for each part that stands by itself.

    Raises:
        KeyError: for a form that is not taught.
    """
    parts = outlines(form)
    if len(parts) == 1:
        return parts
    low = np.min([part.min(axis=0) for part in parts], axis=0) - 4 / JOIN
    high = np.max([part.max(axis=0) for part in parts], axis=0) + 4 / JOIN
    drawn = np.zeros(np.ceil((high - low) * JOIN).astype(int)[::-1], np.uint8)
    for part in parts:
        cv2.fillPoly(drawn, [np.round((part - low) * JOIN).astype(np.int32)], 1)
    edges, _ = cv2.findContours(drawn, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    lines = (cv2.approxPolyDP(edge, SMOOTH, True).reshape(-1, 2) for edge in edges)
    return tuple(line / JOIN + low for line in lines if len(line) > 2)


def taught_outline(form: str) -> tuple[np.ndarray, ...]:
    """The parts (m, 2) of a form about the container's axis, in half widths and plant heights.
    Raises KeyError for one not taught.
    """
    return _taught()[form]


@cache
def _taught() -> dict[str, tuple[np.ndarray, ...]]:
    """Each form about the container's axis, in half widths and plant heights."""
    dome = np.column_stack([np.cos(_arc(0, 180)), np.sin(_arc(0, 180))])
    return {
        "symmetrical triangle": (
            np.array(
                [
                    (-1, 0.0),
                    (-0.5, 0.42),
                    (0, 1),
                    (0.5, 0.42),
                    (1, 0.0),
                    (0.5, -0.08),
                    (-0.5, -0.08),
                ]
            ),
        ),
        "right-angle L": (
            np.array(
                [
                    (-0.52, 0),
                    (-0.54, 0.5),
                    (-0.3, 1.0),
                    (-0.1, 0.6),
                    (0.12, 0.28),
                    (1.0, 0.14),
                    (1.0, 0.0),
                    (0, -0.1),
                ]
            ),
        ),
        "crescent": (
            _band((-0.85, 0.42), (-0.42, 1.0), 0.24, 0.12),
            _band((0.85, -0.02), (1.1, 0.42), 0.16, 0.05),
        ),
        "S-curve": (
            _band((-0.95, 0.55), (0.45, 1.0), 0.22, 0.08),
            _band((0.8, 0.06), (0.6, -0.4), 0.2, 0.05),
        ),
        "vertical": (
            np.array(
                [(-0.8, -0.05), (-1, 0.3), (-0.7, 0.7), (0, 1), (0.7, 0.7), (1, 0.3), (0.8, -0.05)]
            ),
        ),
        "horizontal": (
            np.array(
                [
                    (-1, 0.08),
                    (-0.6, 0.6),
                    (0, 1),
                    (0.6, 0.6),
                    (1, 0.08),
                    (0.6, -0.15),
                    (-0.6, -0.15),
                ]
            ),
        ),
        "round": (np.vstack([dome, [(-0.7, -0.1), (0.7, -0.1)]]),),
        # Lines that spread from one narrow foot: the sides rise from the rim, where a dome is
        # widest.
        "fan": (
            np.vstack(
                [
                    np.column_stack([np.cos(_arc(16, 164)), np.sin(_arc(16, 164))]),
                    [(-0.16, -0.04), (0.16, -0.04)],
                ]
            ),
        ),
        # Tips of main, second and third stem (leaning 12, 45 and 75 degrees, each two thirds of the
        # one before) and their common foot.
        "three-stem": (
            np.array([(-0.04, 0), (-0.47, 0.47), (-0.21, 0.98), (0.43, 0.115), (0.04, 0)]),
        ),
        # A low crown over the rim, and a fall to one side that grows narrower downward.
        "cascade": (
            np.array(
                [
                    (-0.85, 0.0),
                    (-0.9, 0.5),
                    (-0.5, 0.9),
                    (0.0, 1.0),
                    (0.6, 0.8),
                    (1.0, 0.2),
                    (1.0, -0.4),
                    (0.8, -1.0),
                    (0.55, -1.4),
                    (0.3, -0.8),
                    (0.15, -0.25),
                    (-0.4, -0.15),
                ]
            ),
        ),
    }


# forms whose outline is taught, and can be drawn
DRAWN = frozenset(ASPECTS)


# forms that may be made either way round
HEAVY_SIDE = frozenset({"right-angle L", "crescent", "S-curve", "three-stem", "cascade"})
HULLED = frozenset({"three-stem"})  # forms read from what joins the tips, open space and all


class Laid(NamedTuple):
    """How a form is laid on a piece: which way round (1 or -1), stretched to so many times the
    piece's breadth and height, leaned by degrees, and shifted by so many half breadths.
    """

    way: int
    wide: float
    tall: float
    lean: float = 0.0
    shift: float = 0.0


@dataclass(frozen=True, eq=False)
class Fit:
    """A form laid on a piece: how, its parts (m, 2) as (side, along) in pixels, the overlap 0..1,
    and the outlines (k, 2), likewise, of what breaks out of it and of what falls short.
    """

    form: str
    how: Laid
    parts: tuple[np.ndarray, ...]
    overlap: float
    out: tuple[np.ndarray, ...]
    short: tuple[np.ndarray, ...]


@dataclass(frozen=True, eq=False)
class FormFit:
    """A piece held against the form that was asked for: its `fit`, the piece's `aspect` (width over
    height), what of the overlap that leaves (0..1), and the best other form with its own overlap
    times aspect, laid on as `rival_how`. `value` is the measure, 0..1.
    """

    fit: Fit
    aspect: float
    by_aspect: float
    rival: str
    rival_value: float
    rival_how: Laid | None = None

    @property
    def own(self) -> float:
        """Overlap times what the aspect leaves of it."""
        return self.fit.overlap * self.by_aspect

    @property
    def value(self) -> float:
        """The same, less what another form fits better."""
        return max(0.0, self.own - max(0.0, self.rival_value - self.own))

    @property
    def words(self) -> str:
        """How it is made."""
        out = (
            f"the {self.fit.form} laid on the closed outline: common area ÷ joint area ="
            f" {self.fit.overlap:.2f}"
        )
        if self.by_aspect < 1:
            low, high = ASPECTS[self.fit.form][1:3]
            out += (
                f", times {self.by_aspect:.2f} as the piece is {self.aspect:.2f} times as wide as"
                f" high (taught {low:g} to {high:g})"
            )
        if self.rival_value > self.own:
            out += (
                f", less {self.rival_value - self.own:.2f} as the {self.rival} fits better"
                f" ({self.rival_value:.2f})"
            )
        return f"{out} = {self.value:.2f}"


def by_aspect(form: str, aspect: float) -> float:
    """What of its overlap a form keeps for a piece so many times as wide as high: all inside the
    taught aspect, `never` past its limits, between them by the logarithm, so that half as wide and
    twice as wide count alike.
    """
    low_limit, low, high, high_limit = np.log(ASPECTS[form])
    at = np.log(max(aspect, 1e-6))
    return float(
        np.interp(
            at, (low_limit, low, high, high_limit), (FORM_FIT.never, 1.0, 1.0, FORM_FIT.never)
        )
    )


def held_to_form(view: View, form: str, near: FormFit | None = None) -> FormFit:
    """A piece held against a form and all its rivals. `near` is how it was held against them where
    the handles lately were: then both forms are only laid on as they were there, and no better way
    or rival is looked for. Raises KeyError for a form that is not taught, ValueError for a piece
    with no outline.
    """
    aspect = view.plant_width / view.plant_height
    canvas = _Canvas(view)
    if near is not None and near.fit.form == form:
        return _held_as(canvas, near, aspect)
    fit = canvas.fit(form)
    others = {
        name: by_aspect(name, aspect) for name in ASPECTS if name != form and name not in HANGING
    }
    best, value = "", 0.0
    for name in sorted(others, key=lambda n: others[n], reverse=True):
        if others[name] <= value:
            break  # not even laid on without a gap could the rest do better
        own = others[name] * canvas.sized(name)[0]
        if own > value:
            best, value = name, own
    if not best:
        return FormFit(fit, aspect, by_aspect(form, aspect), best, value)
    other = canvas.fit(best)
    value = others[best] * other.overlap
    return FormFit(fit, aspect, by_aspect(form, aspect), best, value, other.how)


def _held_as(canvas: _Canvas, near: FormFit, aspect: float) -> FormFit:
    """A piece held against the form and the rival of another fit, both laid on as they were
    there.
    """
    form, value = near.fit.form, 0.0
    if near.rival_how is not None:
        value = by_aspect(near.rival, aspect) * canvas.laid(near.rival, near.rival_how)[0]
    return replace(
        near,
        fit=canvas.fit_as(form, near.fit.how),
        aspect=aspect,
        by_aspect=by_aspect(form, aspect),
        rival_value=value,
    )


def fit_form(view: View, form: str) -> Fit:
    """The form fitted to the piece's closed outline where it overlaps most.

    Raises KeyError for a form that is not taught, ValueError for a piece with no outline.
    """
    return _Canvas(view).fit(form)


class _Canvas:
    """A piece's closed outline drawn small, for forms to be laid on it."""

    def __init__(self, view: View):
        along, side = view.place(view.surface.outline)
        if len(along) < 3:
            raise ValueError("the piece has no outline")
        self.half, self.middle, self.high = (
            view.plant_width / 2,
            float(side.max() + side.min()) / 2,
            view.plant_height,
        )
        low = min(float(along.min()), -0.2 * self.high)
        self.scale = (FORM_FIT.cells - 1) / max(1.3 * view.plant_width, 1.1 * self.high - low)
        self.origin = np.array([self.middle - 0.65 * view.plant_width, low - 0.05 * self.high])
        wide, tall = 1.3 * view.plant_width, 1.15 * self.high - low
        self.size = (int(np.ceil(tall * self.scale)) + 1, int(np.ceil(wide * self.scale)) + 1)
        self.fall = max(0.0, -float(along.min()))
        self.outline = np.column_stack([side, along])

    def drawn(self, polygons) -> np.ndarray:
        """Polygons (k, 2) as (side, along), filled with 1."""
        canvas = np.zeros(self.size, np.uint8)
        for polygon in polygons:
            cv2.fillPoly(
                canvas,
                [np.round((polygon - self.origin) * self.scale * 16).astype(np.int32)],
                1,
                shift=4,
            )
        return canvas

    @cached_property
    def _plain(self) -> np.ndarray:
        return self.drawn([self.outline])

    @cached_property
    def _hull(self) -> np.ndarray:
        return self.drawn([cv2.convexHull(self.outline.astype(np.float32)).reshape(-1, 2)])

    def piece(self, form: str) -> np.ndarray:
        """The piece as a form reads it (bool h x w): its outline, or what joins its tips."""
        return self._hull if form in HULLED else self._plain

    def laid(self, form: str, how: Laid) -> tuple[float, list[np.ndarray], np.ndarray]:
        """The overlap of a form stretched, leaned and shifted, its parts, and what they cover."""
        a = np.radians(how.lean)
        turn = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])
        off = [self.middle + how.shift * self.half, 0]
        parts = [
            self._stretched(form, part, how.way * how.wide, how.tall) @ turn + off
            for part in outlines(form)
        ]
        trial, piece = self.drawn(parts), self.piece(form)
        union = cv2.countNonZero(piece | trial)
        return (cv2.countNonZero(piece & trial) / union if union else 0.0), parts, trial

    def _stretched(self, form: str, part: np.ndarray, wide: float, tall: float) -> np.ndarray:
        """A part of a form as wide and high as the piece, times a stretch; what of a hanging form
        lies below the rim is as long as the piece's own fall.
        """
        high = np.full(len(part), tall * self.high)
        if form in HANGING and self.fall > 0:
            lowest = -min(float(p[:, 1].min()) for p in outlines(form))
            high[part[:, 1] < 0] = tall * self.fall / lowest
        return np.column_stack([part[:, 0] * wide * self.half, part[:, 1] * high])

    def sized(self, form: str) -> tuple[float, Laid]:
        """The best overlap of a form that stands upright in its place, and the way round and the
        stretch that give it.
        """
        ways = (1, -1) if form in HEAVY_SIDE else (1,)
        sizes = [Laid(*at) for at in product(ways, FORM_FIT.stretch, FORM_FIT.stretch)]
        return max(((self.laid(form, s)[0], s) for s in sizes), key=lambda found: found[0])

    def fit(self, form: str) -> Fit:
        """The form where it overlaps most: size first, then lean and place, for the one hardly
        changes the other.
        """
        _, size = self.sized(form)
        ways = [
            size._replace(lean=lean, shift=shift)
            for lean, shift in product(FORM_FIT.leans, FORM_FIT.shifts)
        ]
        return self.fit_as(form, max(ways, key=lambda how: self.laid(form, how)[0]))

    def fit_as(self, form: str, how: Laid) -> Fit:
        """The form laid on in one way."""
        best, parts, trial = self.laid(form, how)
        piece, least = self.piece(form), max(6.0, float(trial.sum()))

        def edges(mask: np.ndarray, share: float) -> tuple[np.ndarray, ...]:
            found, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
            large = [c for c in found if cv2.contourArea(c) > share * least]
            return tuple(
                cv2.approxPolyDP(c, 1.0, True).reshape(-1, 2) / self.scale + self.origin
                for c in large
            )

        return Fit(
            form,
            how,
            tuple(parts),
            float(best),
            edges(piece & (1 - trial), FORM_FIT.out),
            edges(trial & (1 - piece), FORM_FIT.short),
        )


def drawn_fit(view: View, fit: Fit) -> tuple[EvidenceMark, ...]:
    """The fitted form, and where the piece breaks out of it or falls short."""

    def outline(points: np.ndarray, label: str, says: str) -> EvidenceMark:
        return EvidenceMark(
            "outline", tuple(view.at(float(y), float(x)) for x, y in points), label, says
        )

    marks = [
        outline(part, fit.form if i == 0 else "", f"The {fit.form}, fitted to the piece.")
        for i, part in enumerate(fit.parts)
    ]
    marks += [
        outline(part, "breaks out", "Here the piece breaks out of its form.") for part in fit.out
    ]
    marks += [
        outline(part, "falls short", "Here the piece falls short of its form.")
        for part in fit.short
    ]
    return tuple(marks)

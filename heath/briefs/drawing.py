"""The target drawn over the chosen container: outline of the form and the height band, to scale."""

from __future__ import annotations

import math
from dataclasses import dataclass

from juniper.rules import RuleSet, school, school_slugs
from juniper.scene import Vessel

HEIGHT = 420
WIDTH = 360


@dataclass(frozen=True)
class Target:
    """Pixels of a drawing WIDTH x HEIGHT, and the lengths in cm it stands for."""

    width: float
    height: float
    container: str
    outline: str
    low: float
    high: float
    low_cm: float
    high_cm: float
    rim: float
    middle: float
    tips: tuple[tuple[float, float, str], ...] = ()


def target(values, shape: Vessel | None = None, rules: RuleSet | None = None) -> Target | None:
    """The drawing for a brief's values (a mapping) over a container of a shape, straight-sided without one, by `rules` (those of the shipped
    school that is named, if None); None while the sizes make no sense."""
    try:
        pot = float(values.get("container_height_cm") or "x")
        wide = float(values.get("container_width_cm") or "x")
    except (TypeError, ValueError):
        return None
    slug = values.get("school")
    if rules is None and slug in school_slugs():
        rules = school(slug)
    if rules is None or not (1 <= pot <= 300 and 1 <= wide <= 300):
        return None
    bands = {r.measure: r.band for r in rules.rules if r.measure}
    form = values.get("form")
    wanted = _stems(bands, wide) or _over_table(bands, pot, wide) or _by_height(bands, pot, wide, form)
    if wanted is None:
        return None
    low_cm, high_cm, top_cm, half_cm = wanted.low, wanted.high, wanted.top, wanted.half
    scale = min((HEIGHT - 40) / (pot + max(high_cm, top_cm)), (WIDTH - 60) / max(2 * half_cm, wide))
    middle, base = WIDTH / 2, HEIGHT - 14.0
    rim = base - pot * scale
    top, half = top_cm * scale, half_cm * scale
    if wanted.stems:
        tips = [(middle + x * scale, rim - y * scale, words) for x, y, words in wanted.stems]
        path = "".join(f"M{middle:.1f} {rim:.1f}L{x:.1f} {y:.1f}m-3 0a3 3 0 1 0 6 0a3 3 0 1 0 -6 0" for x, y, _ in tips)
    else:
        tips = []
        path = "M" + " L".join(f"{middle + x:.1f} {rim - y:.1f}" for x, y in _outline(form, half, top)) + " Z"
    sides = shape.half if shape else (0.5, 0.5)
    across = wide * scale / 2 / max(sides)
    levels = [base - pot * scale * i / (len(sides) - 1) for i in range(len(sides))]
    left = [f"{middle - across * h:.1f} {y:.1f}" for h, y in zip(sides, levels, strict=True)]
    right = [f"{middle + across * h:.1f} {y:.1f}" for h, y in zip(sides, levels, strict=True)]
    return Target(
        WIDTH, HEIGHT, "M" + "L".join([*left, *reversed(right)]) + "Z", path,
        rim - low_cm * scale, rim - high_cm * scale, low_cm, high_cm, rim, middle, tuple(tips),
    )  # fmt: skip


@dataclass(frozen=True)
class _Wanted:
    """What the rules ask for, in cm over the rim: height band, the height drawn, half the breadth; tips (side, height, words) of main stems."""

    low: float
    high: float
    top: float
    half: float
    stems: tuple[tuple[float, float, str], ...] = ()


def _mid(band) -> float:
    return (band.low + band.high) / 2


def _stems(bands: dict, wide: float) -> _Wanted | None:
    """Three main stems in the middle of their bands: the first nearly upright, the second low on its side, the third on the other."""
    if "main_stem_width" not in bands or "second_main" not in bands:
        return None
    main = _mid(bands["main_stem_width"]) * wide
    second = main * _mid(bands["second_main"])
    third = second * _mid(bands["third_second"]) if "third_second" in bands else main * _mid(bands["third_main"])
    leans = [
        math.radians(_mid(bands[n]) if n in bands else usual)
        for n, usual in (("main_lean", 10), ("second_lean", 45), ("third_lean", 75))
    ]
    tips = tuple(
        (side * length * math.sin(lean), length * math.cos(lean), f"{words} {length:.0f} cm")
        for length, lean, side, words in zip((main, second, third), leans, (-1, -1, 1), ("main", "second", "third"), strict=True)
    )
    band, upright = bands["main_stem_width"], math.cos(leans[0])
    reach = max(abs(x) for x, _, _ in tips)
    return _Wanted(band.low * wide * upright, band.high * wide * upright, tips[0][1], reach, tips)


def _over_table(bands: dict, pot: float, wide: float) -> _Wanted | None:
    """A low piece seen across a table: its height is over the table."""
    if "table_height" not in bands:
        return None
    low, high = (max(0.5, e - pot) for e in (bands["table_height"].low, bands["table_height"].high))
    half = (_mid(bands["width_ratio"]) if "width_ratio" in bands else 2.0) * wide / 2
    return _Wanted(low, high, (low + high) / 2, half)


def _by_height(bands: dict, pot: float, wide: float, form) -> _Wanted | None:
    """A piece whose height over the rim is taught by the container's larger dimension."""
    band = bands.get("governing_ratio") or bands.get("height_ratio")
    if band is None:
        return None
    governing = max(pot, wide)
    low, high = band.low * governing, band.high * governing
    top = (low + high) / 2
    if form == "horizontal":
        low, high = 0.4 * governing, 0.6 * governing
        top = low
    spread = {"vertical": 0.25, "round": 0.55, "horizontal": 1.6, "fan": 0.6}.get(form, 0.45)
    return _Wanted(low, high, top, max(spread * top, wide * 0.55))


def _outline(form: str, half: float, top: float) -> list[tuple[float, float]]:
    if form in ("round", "fan", "horizontal"):
        return [(half * math.cos(a), top * math.sin(a)) for a in (math.pi * i / 40 for i in range(41))]
    if form == "vertical":
        return [(-half, 0), (-half, 0.6 * top), (0, top), (half, 0.6 * top), (half, 0)]
    if form == "right-angle L":
        return [
            (-0.3 * half, 0),
            (-0.3 * half, top),
            (0, top),
            (0.15 * half, 0.35 * top),
            (1.4 * half, 0.1 * top),
            (1.4 * half, 0),
        ]
    if form in ("crescent", "S-curve"):
        outer = [(half * math.sin(a) - 0.2 * half, top * (1 - math.cos(a)) / 2) for a in (math.pi * i / 24 for i in range(25))]
        inner = [
            (0.45 * half * math.sin(a) - 0.2 * half, top * (1 - math.cos(a)) / 2)
            for a in (math.pi * i / 24 for i in range(24, -1, -1))
        ]
        sign = -1
        return [(sign * x, y) for x, y in outer + inner]
    return [(-half, 0), (0, top), (half, 0)]

"""Aftercare: what a finished piece needs on which day, and how long each of its materials lasts
(handbook section 5, common practice).
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from juniper.planning.calendar import Entry
from juniper.planning.materials import Material
from juniper.planning.ways import chosen_ways

# days: water is changed every second day, and stems are cut again at every other change; or it is
# topped up every three days (handbook section 9)
CHANGE, RECUT, TOP_UP = 2, 4, 3
# days that a card tells of: after three weeks what is left is dried material or leaves
LONGEST = 21
THIRSTY = ("woody", "hollow", "leaf")


@dataclass(frozen=True)
class Day:
    """What is done on a day."""

    on: date
    what: tuple[str, ...]


@dataclass(frozen=True)
class Lasting:
    """How long a material lasts: the range in dates, in days, and what shortens it."""

    material: Material
    first: date
    last: date
    shortens: str


@dataclass(frozen=True)
class Care:
    """The aftercare of a piece made on a day."""

    made: date
    days: tuple[Day, ...]
    lasting: tuple[Lasting, ...]
    always: tuple[str, ...]

    @property
    def shortening(self) -> tuple[str, ...]:
        """What shortens the life of any of it, each once."""
        return tuple(dict.fromkeys(x.shortens for x in self.lasting))


def aftercare(
    materials: tuple[Material, ...], made: date, ways: dict[str, str] | None = None
) -> Care:
    """The care of a piece of some materials, made on a day, until the longest of its fresh ones is
    over, by the ways that a school has chosen. Raises ValueError without materials.
    """
    chosen = chosen_ways(ways or {})
    if not materials:
        raise ValueError("Say first what the piece is made of.")
    fresh = [m for m in materials if not m.treatment.dry]
    until = min(LONGEST, max((m.life[1] for m in fresh), default=0))
    turning = [m for m in fresh if "turns" in m.treatment.also]
    thirsty = [m for m in fresh if m.texture in THIRSTY]
    days = []
    for day in range(1, until + 1):
        what = _water(day, thirsty, chosen["refreshing"])
        if turning:
            what += _to_the_light(day, turning, chosen["tulips"])
        over = [m for m in fresh if m.life[1] == day]
        if over:
            what.append(f"Take out {_listed(over)}, if not done before.")
        if what:
            days.append(Day(made + timedelta(days=day), tuple(what)))
    lasting = tuple(
        Lasting(m, made + timedelta(days=m.life[0]), made + timedelta(days=m.life[1]), shortens(m))
        for m in sorted(materials, key=lambda m: (m.life[1], m.slug))
    )
    return Care(made, tuple(days), lasting, _always(fresh, materials))


def _water(day: int, thirsty: list[Material], way: str) -> list[str]:
    """What is done about the water on a day (from 1), by the way that is in force."""
    most = ""
    if thirsty:
        most = f": {_listed(thirsty)} {'drinks' if len(thirsty) == 1 else 'drink'} most"
    if way == "top-up":
        return ["Top the water up, and leave the piece as it stands."] if day % TOP_UP == 0 else []
    if way == "daily":
        return [f"Feel the water with a finger, and fill up{most}."]
    if day % CHANGE == 0:
        again = "" if day % RECUT else ", and cut every stem again by a finger's breadth"
        return [f"Change the water{again}."]
    return [f"Fill up{most}."] if thirsty else ["Top the water up."]


def _to_the_light(day: int, turning: list[Material], way: str) -> list[str]:
    """What is done about stems that grow and lean to the light."""
    lean = f"{_listed(turning)} {'leans' if len(turning) == 1 else 'lean'} to the light"
    if way == "turn":
        return [f"Turn the piece: {lean}."]
    if day > 1:
        return []
    if way == "window":
        return [f"Set the piece facing the window, and leave it: {lean}."]
    return [f"Keep the piece away from the window: {lean}."]


def shortens(material: Material) -> str:
    """What makes a material last less than it could."""
    if not material.plant:
        return "knocks, and damp"
    if material.texture == "dried":
        return "damp, and full sun"
    words = {
        "bulb": "warmth; it grows on, and opens fast in a heated room",
        "woody": "an end that has dried: one cut not renewed, and it hangs",
        "hollow": "air in the stem, and a dry hour",
        "milky": "sap that closes the cut",
        "leaf": "dry air; large leaves wilt first",
        "soft": "standing too deep in foul water, and warmth",
    }
    return words.get(
        material.texture, "warmth, sun, ripe fruit nearby, and water that is not changed"
    )


def _always(fresh: list[Material], materials: tuple[Material, ...]) -> tuple[str, ...]:
    out = (
        ["Cool, out of the sun, away from heating and from ripe fruit."]
        if fresh
        else ["Dry, out of the sun; dust it with a soft brush."]
    )
    if fresh:
        out.append("What has faded goes out at once: it spoils the water for the rest.")
    if any("cats" in m.cautions or "poisonous" in m.cautions for m in materials):
        named = [m for m in materials if {"cats", "poisonous"} & set(m.cautions)]
        out.append(
            f"Keep {_listed(named)} from children, animals and food. Follow local rules; ask a"
            " qualified person where you are not sure."
        )
    return tuple(out)


def _listed(materials: list[Material]) -> str:
    names = [m.spoken for m in materials]
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def entries(care: Care) -> tuple[Entry, ...]:
    """The care's days as calendar entries of a whole day each."""
    return tuple(
        Entry(
            f"care-{d.on:%Y%m%d}",
            d.on,
            d.on + timedelta(days=1),
            d.what[0].rstrip("."),
            " ".join(d.what),
        )
        for d in care.days
    )

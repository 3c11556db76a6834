"""Conditioning, backwards from class time: what each material needs, and when whose hands do it.

Times are common practice (handbook section 5): two hours in water, woody and large leaves longer;
soft ends seared about 10 s, medium 20, woody 30 to 40, over a tenth of the stem.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime, timedelta

from juniper.planning.calendar import Entry
from juniper.planning.materials import Material
from juniper.planning.ways import BY_SLUG, chosen_ways

# seconds in just-boiled water
SEAR = {"soft": (10, 10), "medium": (20, 20), "woody": (30, 40), "milky": (20, 20)}
SOAK = {"woody": 240, "leaf": 240, "hollow": 180}  # minutes in deep water
USUAL_SOAK, BLEED, UNDER = 120, 30, 30  # minutes
EACH = 0.3  # minutes of hands to strip and cut a stem
# minutes more: split, fill, sear, lay under water
MORE = {"woody": 0.3, "hollow": 0.4, "milky": 0.3, "leaf": 0.1}
SETTLE = 15  # minutes before class by which all stands ready
STEP = 5  # minutes that work is planned in
MOST_PEOPLE = 2  # pairs of hands


@dataclass(frozen=True)
class Need:
    """A material and how many stems of it are to be made ready."""

    material: Material
    stems: int


@dataclass(frozen=True)
class Job:
    """Work of one pair of hands on one material: when, by whom (from 1), what is done, and until
    when it then stands.
    """

    material: Material
    stems: int
    start: datetime
    end: datetime
    ready: datetime
    person: int
    what: tuple[str, ...]


def steps_of(material: Material, ways: dict[str, str] | None = None) -> tuple[str, ...]:
    """What is done to a material, in order, each in a sentence; `ways` are those that a school has
    chosen where schools disagree (see juniper.planning.ways).
    """
    ways = chosen_ways(ways or {})
    if material.texture == "dried":
        return ("Needs no water: steam what is crushed, and shake the dust off out of doors.",)
    steps = ["Strip every leaf that would stand under water."]
    if "thorns" in material.cautions:
        steps.append("Take the thorns off, with gloves.")
    if material.texture == "woody":
        woody = BY_SLUG["woody-ends"].way(ways["woody-ends"])
        steps.append(
            "Cut on the slant, longer than usual."
            if woody is None or woody.slug == "slant"
            else f"Cut on the slant. {woody.what}"
        )
    else:
        steps.append("Cut on the slant, at once into water.")
    if "bleeds" in material.cautions:
        steps.append(f"Let it bleed apart from the others for {BLEED} minutes, then rinse.")
    if material.texture in SEAR and ways["searing"] == "sear":
        low, high = SEAR[material.texture]
        steps.append(
            "Sear a tenth of the stem in just-boiled water,"
            f" {low if low == high else f'{low} to {high}'} seconds, the tops wrapped from the"
            " steam."
        )
    if ways["salt"] == "salt" and material.texture in ("milky", "leaf"):
        steps.append("A pinch of salt in its water.")
    if material.texture == "hollow":
        steps.append(
            "Turn the stem up, fill it with water, and stop it with a plug of wet cotton wool."
        )
    if material.texture == "leaf":
        steps.append(f"Lay it under water for {UNDER} minutes before it stands.")
    if material.slug == "tulip":
        steps.append("Wrap the bunch upright while it drinks, or the stems bend.")
    drops = ", a few drops of bleach to the bucket" if ways["bleach"] == "bleach" else ""
    steps.append(
        f"Stand it in deep cool water for {soak(material) // 60} hours or overnight{drops}."
    )
    return tuple(steps)


def countdown(material: Material, ways: dict[str, str] | None = None) -> int | None:
    """Seconds that a material's end is held in just-boiled water, the longest that is taught for
    it; None where it is not seared.
    """
    seared = material.texture in SEAR and chosen_ways(ways or {})["searing"] == "sear"
    return SEAR[material.texture][1] if seared else None


def soak(material: Material) -> int:
    """Minutes that a material stands in water at least."""
    if material.texture == "dried":
        return 0
    extra = BLEED if "bleeds" in material.cautions else UNDER if material.texture == "leaf" else 0
    return SOAK.get(material.texture, USUAL_SOAK) + extra


def hands(need: Need) -> int:
    """Minutes of one pair of hands, in whole steps."""
    minutes = need.stems * (EACH + MORE.get(need.material.texture, 0.1)) + 5
    return STEP * math.ceil(minutes / STEP)


def timetable(
    needs: tuple[Need, ...], class_at: datetime, people: int = 1, ways: dict[str, str] | None = None
) -> tuple[Job, ...]:
    """Jobs in the order of the day, each as late as it may be: everything has stood its time and is
    ready before class, and nobody has two jobs at once; `ways` as for steps_of(). Raises ValueError
    with a sentence.
    """
    if not 1 <= people <= MOST_PEOPLE:
        raise ValueError(f"The timetable is made for one person or {MOST_PEOPLE}.")
    if any(n.stems < 1 for n in needs):
        raise ValueError("Of each material there is one stem at least.")
    # from when on each is busy, looking backwards
    free = [class_at - timedelta(minutes=SETTLE)] * people
    jobs = []
    # What need not stand long is done last: so all of it is as fresh as it can be.
    for need in sorted(needs, key=lambda n: (soak(n.material), n.material.slug)):
        latest = class_at - timedelta(minutes=SETTLE + soak(need.material))
        person = max(range(people), key=lambda p: (min(free[p], latest), -p))
        end = min(free[person], latest)
        start = end - timedelta(minutes=hands(need))
        free[person] = start
        ready = end + timedelta(minutes=soak(need.material))
        jobs.append(
            Job(
                need.material,
                need.stems,
                start,
                end,
                ready,
                person + 1,
                steps_of(need.material, ways),
            )
        )
    return tuple(sorted(jobs, key=lambda j: (j.start, j.person)))


def entries(jobs: tuple[Job, ...]) -> tuple[Entry, ...]:
    """A timetable as calendar entries."""
    return tuple(
        Entry(
            f"{n}-{j.material.slug}",
            j.start,
            j.end,
            f"{j.material.common}, {j.stems} stems",
            " ".join(j.what),
        )
        for n, j in enumerate(jobs, 1)
    )

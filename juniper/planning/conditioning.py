"""Conditioning, backwards from class time: what each material needs, by its own treatment and the
school's ways, and when whose hands do it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime, timedelta

from juniper.planning.calendar import Entry
from juniper.planning.materials import Material
from juniper.planning.treatment import AFTER, ALSO, CUTS, FIRST, LEAVES, THEN, WOODY
from juniper.planning.ways import chosen_ways

UNDER = 30  # minutes that a leaf or head lies under water before it stands (common practice)
LAID = frozenset({"submerge", "dip"})
EACH = 0.3  # minutes of hands to strip and cut a stem
# minutes more: split or whittle, fill, sear, lay under water, take thorns off (from memory)
MORE = {"split": 0.3, "whittle": 0.5, "crush": 0.2, "fill": 0.4, "sear": 0.3, "laid": 0.1}
THORNS, OTHER = 0.2, 0.1
SETTLE = 15  # minutes before class by which all stands ready
STEP = 5  # minutes that work is planned in
MOST_PEOPLE = 2  # pairs of hands
# which cut a school's way with woody ends stands for
WOODY_WAYS = {"cross-cut": "split", "whittle": "whittle", "hammer": "crush", "slant": "slant"}
DEPTHS = {
    "shallow": "shallow {} water",
    "half": "{} water, a third of its stem in it",
    "deep": "deep {} water",
}


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


def cut_of(material: Material, ways: dict[str, str]) -> str:
    """How the ends of a material are cut, a key of CUTS: its own usual way, or the way with woody
    ends that a school has chosen, where the material's own ends are treated as wood.
    """
    cuts = material.treatment.cut
    wanted = WOODY_WAYS.get(ways.get("woody-ends", ""))
    if wanted is None or not set(cuts) & set(WOODY):
        return cuts[0]
    return wanted


def steps_of(material: Material, ways: dict[str, str] | None = None) -> tuple[str, ...]:
    """What is done to a material, in order, each in a sentence; `ways` are those that a school has
    chosen where schools disagree (see juniper.planning.ways).
    """
    ways = chosen_ways(ways or {})
    treatment = material.treatment
    steps = _also(material, FIRST)
    if treatment.dry:
        if treatment.cut[0] == "none":
            nothing = "It needs no water." if material.plant else "There is nothing to condition."
            return tuple(steps or [nothing])
        return (*steps, CUTS[treatment.cut[0]])
    leaves = treatment.leaves
    if leaves == "either":
        steps.append(
            "Strip every leaf." if ways["leaves"] == "off" else "Leave a few leaves on at the top."
        )
    elif LEAVES[leaves]:
        steps.append(LEAVES[leaves])
    if "thorns" in material.cautions:
        steps.append("Take the thorns off, with gloves.")
    cut = CUTS[cut_of(material, ways)]
    if cut:
        steps.append(cut)
    if treatment.bleed:
        steps.append(
            f"Let it bleed apart from the others for {_time(treatment.bleed)}, then rinse."
        )
    seared = _seared(material, ways)
    if seared is not None:
        low, high = seared
        steps.append(
            "Sear a tenth of the stem in just-boiled water,"
            f" {low if low == high else f'{low} to {high}'} seconds, the tops wrapped from the"
            " steam."
        )
    if ways["salt"] == "salt" and material.texture in ("milky", "leaf"):
        steps.append("Add a pinch of salt to its water.")
    steps += _also(material, THEN, () if ways["food"] == "food" else ("food",))
    temperature, depth = treatment.water
    drops = ", a few drops of bleach to the bucket" if ways["bleach"] == "bleach" else ""
    steps.append(
        f"Stand it in {DEPTHS[depth].format(temperature)}, for {_time(treatment.soak)} or"
        f" overnight{drops}."
    )
    return tuple(steps)


def in_use(material: Material) -> tuple[str, ...]:
    """What is done to a material as it is placed, or afterwards, each in a sentence."""
    return tuple(_also(material, AFTER))


def _also(material: Material, when: str, without: tuple[str, ...] = ()) -> list[str]:
    """The further steps of a material that are taken at some time, in sentences."""
    told = (ALSO[key] for key in material.treatment.also if key not in without)
    return [words for at, words in told if at == when]


def _time(minutes: int) -> str:
    """Minutes in words: below two hours in minutes, else in hours."""
    if minutes < 120:
        return f"{minutes} minutes"
    hours = minutes / 60
    return f"{hours:g} hours"


def _seared(material: Material, ways: dict[str, str]) -> tuple[int, int] | None:
    return material.treatment.sear if ways["searing"] == "sear" else None


def countdown(material: Material, ways: dict[str, str] | None = None) -> int | None:
    """Seconds that a material's end is held in just-boiled water, the longest that is taught for
    it; None where it is not seared.
    """
    seared = _seared(material, chosen_ways(ways or {}))
    return seared[1] if seared else None


def soak(material: Material) -> int:
    """Minutes that a material wants before it is used: bleeding, lying under water, standing."""
    treatment = material.treatment
    laid = UNDER if LAID & set(treatment.also) else 0
    return treatment.bleed + laid + treatment.soak


def hands(need: Need, ways: dict[str, str] | None = None) -> int:
    """Minutes of one pair of hands, in whole steps."""
    material, ways = need.material, chosen_ways(ways or {})
    also = set(material.treatment.also)
    more = MORE.get(cut_of(material, ways), 0.0)
    more += MORE["fill"] * ("fill" in also) + MORE["laid"] * bool(LAID & also)
    more += MORE["sear"] * (_seared(material, ways) is not None)
    more += THORNS * ("thorns" in material.cautions)
    minutes = need.stems * (EACH + (more or OTHER)) + 5
    return STEP * math.ceil(minutes / STEP - 1e-9)


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
        start = end - timedelta(minutes=hands(need, ways))
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

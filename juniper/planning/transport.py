"""How a finished piece comes to its place: carried, driven, or dressed on site, with the time and
the water at each step (handbook section 9, common practice; times from memory).
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class TransportStep:
    """One step on the way: what is done in `minutes` for a piece, and what becomes of its water."""

    what: str
    minutes: int
    water: str


@dataclass(frozen=True)
class Transport:
    """A way to move a piece: its key, how it is said, and its steps before and after the way
    itself, whose minutes are the school's own to tell.
    """

    key: str
    says: str
    before: tuple[TransportStep, ...]
    after: tuple[TransportStep, ...]


PHOTOGRAPH = TransportStep(
    "Turn it to its front, step back, and photograph it as it now stands.", 2, "full"
)
WAYS = (
    Transport("none", "It stays where it is made", (), (PHOTOGRAPH,)),
    Transport(
        "carried",
        "Carried finished, on foot",
        (
            TransportStep(
                "Pour off water to a third, so that it does not spill.", 1, "a third full"
            ),
            TransportStep("One person carries it, another opens the doors.", 1, "a third full"),
        ),
        (
            TransportStep("Fill it up from a can with a long spout.", 1, "full"),
            TransportStep("Put right what has moved; replace what is bruised.", 3, "full"),
            PHOTOGRAPH,
        ),
    ),
    Transport(
        "driven",
        "Driven finished",
        (
            TransportStep(
                "Pour off water to a quarter; the holding material stays wet.", 1, "a quarter full"
            ),
            TransportStep(
                "Wedge the vessel in a crate, heads clear of the walls; spare blooms in a bucket"
                " beside it.",
                3,
                "a quarter full",
            ),
        ),
        (
            TransportStep("Fill it up from a can with a long spout.", 1, "full"),
            TransportStep("Put right what has moved; replace what is bruised.", 5, "full"),
            PHOTOGRAPH,
        ),
    ),
    Transport(
        "dressed",
        "Made up, emptied, and dressed on site",
        (
            TransportStep(
                "Set the holding material and the foliage; empty the vessel.", 2, "empty"
            ),
            TransportStep(
                "Flowers, spare blooms and trailing stems go in buckets, named by piece.",
                3,
                "empty; stems in buckets",
            ),
        ),
        (
            TransportStep("Set the vessel in its place first; fill it.", 3, "full"),
            TransportStep(
                "Set the flowers, then what drapes over the edge, where it hangs.", 10, "full"
            ),
            PHOTOGRAPH,
        ),
    ),
)
BY_KEY = {w.key: w for w in WAYS}

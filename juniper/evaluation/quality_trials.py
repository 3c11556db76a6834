"""Trials on the simulated camera: what the quality advice catches, and how true the reference card
is.
"""

from __future__ import annotations

import io
from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
from PIL import Image

from juniper.assessment import analyse
from juniper.camera.capture import FAULTS, Photographable, Shot, take, with_fault
from juniper.camera.card_placing import NoRoom, stand_card
from juniper.camera.roll import TRIALS, Frame, frame, frames
from juniper.colour.spaces import ciede2000, lab_from_srgb, srgb_from_linear
from juniper.photograph import UnusablePhotograph
from juniper.photograph.card import CARD_SIDE, Card, find_card, grey_readings
from juniper.photograph.card_layout import LAYOUTS
from juniper.photograph.code import LETTERS
from juniper.scene import NothingFound

# Which advice answers a fault.
ANSWERS = {
    "blur": {"blur"},
    "shake": {"blur"},
    "dark": {"dark"},
    "bright": {"bright"},
    "roll": {"roll"},
    "cut off": {"cut-off"},
    "small": {"small"},
    "warm cast": {"cast"},
    "cold cast": {"cast"},
    "mixed light": {"mixed"},
    "noise": {"noise"},
    "above": {"above"},
    "below": {"below"},
    "crowded": {"crowded"},
}
QUALITY = set().union(*ANSWERS.values())


def a_code(rng: np.random.Generator) -> str:
    """A card's code for a trial."""
    return "".join(LETTERS[i] for i in rng.integers(0, 32, 8))


def good_shot(rng: np.random.Generator, code: str | None) -> Shot:
    """A picture taken well: the small unsteadiness of any hand and lamp."""
    return Shot(
        code=code,
        roll_deg=float(rng.normal(0, 0.8)),
        kelvin=float(rng.uniform(5600, 7600)),
        stops=float(rng.uniform(-0.5, 0.3)),
        noise=float(rng.uniform(0, 3.5)),
        blur=float(rng.uniform(0, 0.7)),
    )


def advice_codes(data: bytes) -> set[str]:
    """Codes of the quality advice given on a picture; a refused one counts as all caught."""
    try:
        return {a.code for a in analyse(data).advice} & QUALITY
    except (UnusablePhotograph, NothingFound):
        return {"refused"}


def fault_trial(job: tuple[int, str, str, int]) -> tuple[str, str, set[str], str]:
    """One picture with one fault ('' for none): (fault, what was photographed, advice given,
    stem).
    """
    number, view, fault, seed = job
    rng = np.random.default_rng((seed, number, *fault.encode()))
    one = frame(number, view)
    shot = good_shot(rng, a_code(rng) if seed % 2 == 0 else None)
    if view in TRIALS:
        shot = replace(shot, size=(600, 800))
    elif fault:
        shot = with_fault(shot, fault, float(rng.uniform(0, 1)), one)
    return fault or "none", view, advice_codes(take(one, shot, seed).data), f"{number:02d}-{view}"


def meets_frame(one: Frame) -> bool:
    """Whether the piece truly meets the edge of the picture."""
    piece = np.isin(one.labels, (2, 3))
    return bool(piece[:4].any() or piece[-4:].any() or piece[:, :4].any() or piece[:, -4:].any())


def fault_jobs(seeds: int = 2) -> list[tuple[int, str, str, int]]:
    """All trials: every front with each fault and without, and the fronts that were taken badly."""
    # A patterned paper and things behind are crowded backdrops; a branch that meets the frame is
    # cut off.
    good = [
        f
        for f in frames("front")
        if not f.truth["clutter"] and f.truth["backdrop"] != "paper" and not meets_frame(f)
    ]
    jobs = [
        (f.piece, "front", fault, s) for f in good for s in range(seeds) for fault in ("", *FAULTS)
    ]
    jobs += [
        (f.piece, f.view, f.view, s) for view in TRIALS for f in frames(view) for s in range(seeds)
    ]
    return jobs


@dataclass(frozen=True)
class FaultRow:
    """How often a fault was answered by its own advice, or at all."""

    fault: str
    pictures: int
    caught: int
    raised: int


def fault_table(done: Iterable[tuple[str, str, set[str], str]]) -> list[FaultRow]:
    """Rows of the table, the good pictures first: there `raised` is the number of false alarms."""
    by: dict[str, list[set[str]]] = {}
    for fault, _, codes, _ in done:
        by.setdefault(fault, []).append(codes)
    rows = []
    for fault in ("none", *ANSWERS):
        seen = by.get(fault, [])
        caught = sum(bool(codes & (ANSWERS.get(fault, set()) | {"refused"})) for codes in seen)
        rows.append(FaultRow(fault, len(seen), caught, sum(bool(c) for c in seen)))
    return rows


@dataclass(frozen=True)
class CardTrial:
    """One card in one picture: kind of trial, relative error of scale, neutrality of its greys,
    identity.
    """

    kind: str
    found: bool
    scale_error: float | None
    neutral: float | None
    identity: str  # "right", "none" or "wrong"
    turned: float | None = None


def looked_at(data: bytes) -> tuple[np.ndarray, float]:
    """A picture as the card is looked for in it, and its scale."""
    image = Image.open(io.BytesIO(data))
    full = image.size[0]
    image.thumbnail((CARD_SIDE, CARD_SIDE), Image.Resampling.BOX)
    pixels = np.asarray(image.convert("RGB"))
    return pixels, pixels.shape[1] / full


def neutrality(pixels: np.ndarray, card: Card, scale: float) -> float | None:
    """Mean CIEDE2000 of the corrected grey steps to neutrals of their own lightness; None without
    white balance.
    """
    if card.white is None or card.plane is None:
        return None
    plane = np.diag([scale, scale, 1.0]) @ np.array(card.plane) @ np.diag([0.1, 0.1, 1.0])
    read = [r for r in grey_readings(pixels, LAYOUTS[card.size], plane) if r is not None]
    if not read:
        return None
    lab = lab_from_srgb(srgb_from_linear(np.clip(np.array(read) * card.white.gains, 0, 1)))
    return float(
        np.mean(ciede2000(lab, np.column_stack([lab[:, 0], 0 * lab[:, 0], 0 * lab[:, 0]])))
    )


def card_trial(kind: str, one: Photographable, shot: Shot, seed: int) -> CardTrial:
    """Take a picture with a card in it and hold what is found against the truth."""
    picture = take(one, shot, seed)
    pixels, scale = looked_at(picture.data)
    card = find_card(pixels, scale)
    if card is None:
        return CardTrial(kind, False, None, None, "none")
    wanted = picture.truth["card"]["px_per_cm"]
    error = None if card.px_per_cm is None else card.px_per_cm / wanted - 1
    identity = "none" if card.code is None else "right" if card.code == shot.code else "wrong"
    return CardTrial(kind, True, error, neutrality(pixels, card, scale), identity, card.turned_deg)


CARD_KINDS = ("traced", "facing", "turned 20", "A5 facing", "cast", "half hidden", "rough")
_PLAIN = tuple(range(22, 32))  # pieces photographed without a card


def card_case(job: tuple[str, int]) -> CardTrial:
    """One trial of the card; the same job, the same trial."""
    kind, seed = job
    rng = np.random.default_rng((seed, *kind.encode()))
    phone = (1512, 2016)
    shot = Shot(
        size=phone,
        code=a_code(rng),
        roll_deg=float(rng.normal(0, 1.2)),
        noise=float(rng.uniform(1, 4)),
        blur=float(rng.uniform(0, 0.6)),
    )
    if kind == "traced":
        fronts = [f for f in frames("front") if "card" in f.truth]
        return card_trial(kind, fronts[seed % len(fronts)], shot, seed)
    size = "A5" if kind.startswith("A5") else "A6"
    while True:
        one = frame(int(rng.choice(_PLAIN)))
        side = float(rng.choice([-1, 1]))
        away = (
            one.truth["container"]["max_width_cm"] / 2
            + LAYOUTS[size].width / 20
            + float(rng.uniform(-2, 3))
        )
        yaw = side * 20.0 if kind == "turned 20" else float(rng.uniform(-2, 2))
        hide = float(rng.uniform(0.35, 0.6)) if kind == "half hidden" else 0.0
        try:
            framed = stand_card(one, side * away, yaw, float(rng.uniform(4, 12)), size, hide)
            break
        except NoRoom:
            continue
    shot = replace(shot, card_size=size)
    if kind == "cast":
        shot = replace(shot, kelvin=float(rng.uniform(3000, 8000)))
    if kind == "rough":
        shot = replace(
            shot,
            size=(900, 1200) if seed % 2 else phone,
            noise=float(rng.uniform(4, 26)),
            blur=float(rng.uniform(0, 3.2)),
            shake=float(rng.choice([0, 0, 9])),
            stops=float(rng.uniform(-2.2, 0.9)),
            quality=int(rng.integers(35, 90)),
            roll_deg=float(rng.uniform(-12, 12)),
        )
    return card_trial(kind, framed, shot, seed)

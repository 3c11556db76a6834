"""A photograph understood: datum, labels, flower colours, blooms."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from juniper.background import in_background
from juniper.colour.circle import saturation
from juniper.colour.palette import Swatch, flower_colours, palette_of, swatches_of
from juniper.photograph import Photograph, adaptation, adapted, guessed_light
from juniper.scene.blooms import Bloom, find_blooms, focal_point, give_roles, tell_apart
from juniper.scene.container.datum import Datum, ExpectedHeight, NoContainer
from juniper.scene.container.pose import Pose, pose_of
from juniper.scene.container.reading import ellipses, find_datum, foot_of, seen_of
from juniper.scene.container.shape import ContainerShape
from juniper.scene.container.sides import chief_part, expected_slope, sides_of
from juniper.scene.container.stand import without_stand
from juniper.scene.edge import NoEdge, read_edge
from juniper.scene.material import flower_mask, petal_odds
from juniper.scene.parts import Label
from juniper.scene.petal_overlaps import with_overlaps_put_right
from juniper.scene.petals import frame_of, petal_probabilities
from juniper.scene.segment.foreground import CutOut
from juniper.scene.segment.segmentation import JOINED, Segmentation, segment
from juniper.scene.several import find_group
from juniper.scene.share_uncertainty import with_uncertain_shares
from juniper.scene.tied import NoTie, cut_at_tie, read_tied
from juniper.scene.usable import (
    CUT_OFF,
    FROM_ABOVE,
    NO_CONTAINER,
    NO_PIECE,
    SEVERAL,
    USABLE,
    cut_off,
    from_above,
    pieces_apart,
)
from juniper.scene.vessels import Vessel
from juniper.values import Point, point

LIGHTS = {
    "": 6.0,
    "guess": 4.5,
    "card": 1.5,
    "hand": 2.5,
}  # what the light's colour is told by, and what white may still be off by, in CIELAB b*
FEWER = 11  # of leaf and wall every so many pixels are enough to tell their colours
SAGE, SAGE_DEEP, MOSTLY = (
    (125.0, 165.0),
    (0.1, 0.38),
    0.35,
)  # CIELAB hue and saturation of silver leaves; a share of the flowers that is no mistake
TIED, EDGE = "hand-tied", "on an edge"  # kinds of piece without a container (juniper.rules)
FAINT_PLANT = 0.5  # confidence in the outline below which it is looked at twice


@dataclass(frozen=True, eq=False)
class Raster:
    """What a photograph's pixels are, at working size; all that re-measuring needs.

    `labels` uint8 (h, w), of juniper.scene.parts.Label; `flowers` uint8, 0 or the number of the
    swatch in the flower palette; `light` uint8, CIELAB lightness 0..100; `scale` is working size
    over the photograph's size.
    """

    labels: np.ndarray
    flowers: np.ndarray
    light: np.ndarray
    scale: float

    def labels_at(self, size: tuple[int, int]) -> np.ndarray:
        """The labels (uint8 h x w) of a picture of `size` (width, height); edges run smoothly
        between the raster's pixels.
        """
        likely = [
            cv2.resize((self.labels == k).astype(np.float32), size, interpolation=cv2.INTER_LINEAR)
            for k in range(Label.PLANT + 1)
        ]
        return np.argmax(likely, axis=0).astype(np.uint8)

    def packed(self) -> bytes:
        """The raster as one lossless PNG (labels, flowers, light as its three channels)."""
        done, data = cv2.imencode(".png", np.dstack([self.labels, self.flowers, self.light]))
        if not done:
            raise ValueError("the raster could not be packed")
        return data.tobytes()

    @staticmethod
    def unpacked(data: bytes, scale: float) -> Raster:
        """Inverse of packed()."""
        stack = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
        if stack is None:
            raise ValueError("the raster is damaged")
        labels, flowers, light = (np.ascontiguousarray(stack[..., i]) for i in range(3))
        return Raster(labels, flowers, light, scale)


@dataclass(frozen=True)
class Scene:
    """The datum, blooms and palette found in a photograph, in its full pixels.

    `focal` is the suggested focal point or None; `doubts` are plain sentences; `has_colour` is
    False for a grey picture, whose colours are not judged; `engine` is what made the outline;
    `light` is what its colour was told by, one of LIGHTS, and `white` the linear red, green and
    blue of a grey under it, where that is still to be taken out of the picture; `pose` is how the
    camera looked, None where that is not known; `unsteady` how far each measure moves when the
    picture is changed a little (measure, standard deviation), empty where that was not tried;
    `vessels` are all of a composition from the left, empty for a single one, and `of_group` is
    whether it was read as a whole and not by its main vessel; `tied` is whether it is a hand-tied
    bunch, whose tie is its rim and whose stem ends are its base.
    """

    datum: Datum
    focal: Point | None
    blooms: tuple[Bloom, ...]
    palette: tuple[Swatch, ...]
    width: int
    height: int
    has_colour: bool = True
    plant_confidence: float = 1.0
    engine: str = ""
    light: str = ""
    white: tuple[float, float, float] | None = None
    pose: Pose | None = None
    unsteady: tuple[tuple[str, float], ...] = ()
    vessels: tuple[Vessel, ...] = ()
    of_group: bool = False
    tied: bool = False

    def in_fair_light(self, pixels: np.ndarray) -> np.ndarray:
        """Pixels of the picture (..., n, 3) uint8 sRGB with the colour of the light taken out of
        them, as its colours are judged.
        """
        return (
            pixels if self.white is None else adapted(pixels, adaptation(1 / np.array(self.white)))
        )

    @property
    def seen_twice(self) -> bool:
        """Whether the second engine had its say."""
        return self.engine == JOINED

    @property
    def doubtful(self) -> bool:
        """Whether a second engine is worth its time."""
        return self.datum.needs_check or self.plant_confidence < FAINT_PLANT


class NothingFound(ValueError):
    """The picture shows no arrangement that can be measured; the message tells what to do."""


def see(
    photograph: Photograph,
    given: Datum | None = None,
    known: ContainerShape | None = None,
    cutout: CutOut | None = None,
    container_height_cm: float | None = None,
    click: Point | None = None,
    view: str = "front",
    vessels: int | None = 1,
    kind: str = "one vessel",
    fall: float | None = None,
) -> tuple[Scene, Raster]:
    """Find the piece in a photograph. With `given`, that datum is used instead of the automatic;
    `known` is the container's shape, `cutout` a general network whose foreground is joined in,
    `click` a place on the container that a person pointed at (photograph pixels). With the
    container's true height the reference card, if it shows, tells where a hidden rim lies. From the
    "top" a `view` is not refused for being one. Of a composition of two `vessels` or more all are
    looked for; with None too, and then one is measured and the others are listed. Of a `kind`
    without a container (see juniper.rules) tie or edge stand for the rim; `fall` is how far a
    garland is to hang, of its edge's length.

    Raises NothingFound, with a sentence for the user, when the picture cannot be used; NoCutOut
    when the general network cannot be run.
    """
    lab = cv2.cvtColor(photograph.pixels.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
    scale = photograph.scale
    foreground = None if cutout is None else cutout.foreground(photograph.pixels)
    parts = segment(
        photograph.pixels,
        lab,
        foreground,
        None if click is None else (click[0] * scale, click[1] * scale),
        several=kind == TIED or (vessels is not None and vessels > 1),
    )
    plant = parts.labels == Label.PLANT
    if plant.sum() < USABLE.least * plant.size:
        raise NothingFound(NO_PIECE)
    focal = photograph.focal * max(lab.shape[:2])
    placed = given.scaled(scale) if given else None
    group = (
        find_group(photograph.pixels, parts, focal, vessels)
        if vessels != 1 and kind not in (TIED, EDGE) and view not in ("top", "back")
        else None
    )
    if parts.look is not None and view != "top" and cut_off(parts.labels):
        parts = replace(parts, labels=without_stand(parts.labels, parts.look.points))
    if kind in (TIED, EDGE) and view != "top":
        parts, placed = _without_container(parts, kind, placed, fall)
        plant = parts.labels == Label.PLANT
    if group is not None:
        parts = replace(parts, labels=group.labels)
        plant = parts.labels == Label.PLANT
        placed = placed or group.datum
    if (
        group is None
        and kind not in (TIED, EDGE)
        and parts.look is not None
        and given is None
        and click is None
        and view != "top"
        and pieces_apart(parts.look) > 1
    ):
        raise NothingFound(SEVERAL)
    told_focal = photograph.focal if photograph.knows_focal else None
    read = in_background(
        _automatic,
        parts,
        focal,
        told_focal,
        known,
        _told(photograph, container_height_cm),
        placed,
        view,
    )
    told = photograph.card is not None and photograph.card.white is not None
    lit = in_background(_in_fair_light, photograph, lab, parts.labels < Label.CONTAINER, told)
    look = petal_probabilities(photograph.pixels, frame_of(parts.labels >= Label.CONTAINER))
    odds = petal_odds(look, plant, photograph.pixels)
    petals = flower_mask(plant, odds) if photograph.has_colour else np.zeros_like(plant)
    apart = tell_apart(look, petals)
    white, judged = lit.result()
    flowers, palette = _colours(judged, parts.labels, petals, apart.number)
    palette = with_uncertain_shares(palette, odds, flowers[plant], judged[plant])
    blooms = find_blooms(apart, flowers, tuple(s for s in palette if s.part == "flower"))
    datum, pose = read.result()
    if kind in (TIED, EDGE) or (group is not None and vessels is not None):
        pose = None  # no one foot and rim that open as ellipses do
    ys, xs = np.nonzero(plant)
    along = (xs - datum.rim[0]) * datum.up[0] + (ys - datum.rim[1]) * datum.up[1]
    blooms = give_roles(blooms, datum, float(along.max()))
    back = 1 / scale
    focal = focal_point(blooms)
    scene = Scene(
        datum=given or (group.datum if group else datum).scaled(back),
        focal=(focal[0] * back, focal[1] * back) if focal else None,
        blooms=tuple(b.scaled(back) for b in blooms),
        palette=palette,
        width=photograph.width,
        height=photograph.height,
        has_colour=photograph.has_colour,
        plant_confidence=parts.clarity,
        light="card" if told else "guess",
        white=white,
        engine=parts.engine,
        pose=pose and pose.scaled(back),
        vessels=tuple(v.scaled(back) for v in group.vessels) if group else (),
        of_group=group is not None and vessels is not None,
        tied=kind == TIED,
    )
    light = np.clip(np.round(lab[..., 0]), 0, 100).astype(np.uint8)
    return scene, Raster(parts.labels, flowers, light, scale)


def _without_container(
    parts: Segmentation, kind: str, given: Datum | None, fall: float | None
) -> tuple[Segmentation, Datum]:
    """A piece without a container: its labels and the datum that stands for one, or the one
    `given`. Raises NothingFound, with a sentence for the user.
    """
    try:
        if kind == TIED:
            labels, datum = read_tied(parts.labels)
            if given is not None:
                labels = cut_at_tie(labels, given)
            return replace(parts, labels=labels), given or datum
        labels, datum = read_edge(parts.labels, fall)
        return replace(parts, labels=labels), given or datum
    except (NoTie, NoEdge) as error:
        if given is None:
            raise NothingFound(str(error)) from error
        labels = cut_at_tie(parts.labels, given) if kind == TIED else parts.labels
        return replace(parts, labels=labels), given


def _in_fair_light(
    photograph: Photograph, lab: np.ndarray, ground: np.ndarray, told: bool
) -> tuple:
    """The guess at the light's colour from what of the picture is ground (bool h x w), and the
    picture in CIELAB without it; no guess, and the picture as it is, where a card has `told` it.
    """
    if told or not photograph.has_colour:
        return None, lab
    white = guessed_light(photograph.pixels, ground)
    fair = adapted(photograph.pixels, adaptation(1 / np.array(white)))
    return white, cv2.cvtColor(fair.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)


def _told(photograph: Photograph, height_cm: float | None) -> ExpectedHeight | None:
    """The container's height in pixels of the working picture by the reference card, if that tells
    a scale.
    """
    card = photograph.card
    if height_cm is None or card is None or card.px_per_cm is None:
        return None
    return ExpectedHeight(height_cm * card.px_per_cm * photograph.scale, card.scale_uncertainty)


def _under_plant(labels: np.ndarray) -> Datum:
    """A datum for a piece from above that hides its vessel: about the plant's middle. Nothing that
    is measured from above rests on it.
    """
    ys, xs = np.nonzero(labels == Label.PLANT)
    (x0, x1), (y0, y1) = (np.percentile(v, (2, 98)) for v in (xs, ys))
    x, y, half = (x0 + x1) / 2, (y0 + y1) / 2, (x1 - x0) / 4
    return Datum(
        point((x, y)),
        point((x, y + half)),
        point((x - half, y)),
        point((x + half, y)),
        confidence=0.0,
        doubts=("from above the vessel cannot be made out",),
    )


def _automatic(
    parts: Segmentation,
    focal: float,
    told_focal: float | None,
    known: ContainerShape | None,
    told: ExpectedHeight | None,
    given: Datum | None,
    view: str,
) -> tuple[Datum, Pose | None]:
    """The datum that is found, or the one `given`, and how the camera looked. Raises NothingFound
    when there is none.
    """
    wall, points = parts.labels == Label.CONTAINER, None
    profile, agreement = parts.profile, 1.0
    if parts.look is not None:
        points, agreement = parts.look.points, parts.look.agreement
        base, rim = (
            points[n].at if given is None else np.array(getattr(given, n)) for n in ("base", "rim")
        )
        wall = chief_part(wall, np.linspace(base, rim, 12)[1:-1])
        spread = (
            float(np.sqrt(sum(points[n].covariance[0, 0] for n in ("base", "rim"))))
            if given is None
            else 0.0
        )
        profile = sides_of(wall, (*base, expected_slope(base, rim, spread)))
    try:
        seen = seen_of(wall, profile)
        foot = foot_of(seen, focal)
        ys, xs = np.nonzero(parts.labels == Label.PLANT)
        top = np.array([xs[ys.argmin()], ys.min()], float)
        datum = given or find_datum(seen, foot, points, top, focal, known, told, agreement)
    except NoContainer as error:
        if given is not None:
            return given, None
        if view == "top" and (parts.labels == Label.PLANT).any():
            return _under_plant(parts.labels), None
        raise NothingFound(NO_CONTAINER) from error
    if given is None and view != "top":
        if cut_off(parts.labels):
            raise NothingFound(CUT_OFF)
        if parts.look is not None and from_above(datum, parts.look):
            raise NothingFound(FROM_ABOVE)
    if points is None or view == "top":
        return datum, None
    centre = np.array(wall.shape[::-1]) / 2
    return datum, pose_of(
        ellipses(seen, foot, datum, points, centre), max(wall.shape), told_focal, tuple(centre)
    )


def _colours(lab, labels, petals, number) -> tuple[np.ndarray, tuple[Swatch, ...]]:
    plant = labels == Label.PLANT
    leaves = in_background(_palette_under, lab, plant & ~petals, "foliage", 2)
    vessel = in_background(_palette_under, lab, labels == Label.CONTAINER, "container", 1)
    flower, index = _colours_of_petals(lab, petals, number)
    grey = [k for k, s in enumerate(flower) if s.share < MOSTLY and _is_sage(s.lab)]
    if grey:
        petals = petals.copy()
        petals[petals] = ~np.isin(index, grey)
        leaves = in_background(_palette_under, lab, plant & ~petals, "foliage", 2)
        flower, index = _colours_of_petals(lab, petals, number)
    raster = np.zeros(labels.shape, np.uint8)
    raster[petals] = index + 1
    return raster, flower + leaves.result() + vessel.result()


def _colours_of_petals(lab, petals, number) -> tuple[tuple[Swatch, ...], np.ndarray]:
    inner = cv2.erode(petals.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    own = lab[petals]
    index = with_overlaps_put_right(own, flower_colours(own, number[petals]), petals)
    return swatches_of(own, index, "flower", inner[petals])


def _is_sage(lab) -> bool:
    """Whether a CIELAB colour (3,) that was taken for petals is the greyish green of silver leaves:
    greyer than a green flower, greener than a white one.
    """
    low, high = SAGE_DEEP
    return (
        SAGE[0] < np.degrees(np.arctan2(lab[2], lab[1])) % 360 < SAGE[1]
        and low < float(saturation(lab)) < high
    )


def _palette_under(lab: np.ndarray, mask: np.ndarray, part: str, most: int) -> tuple[Swatch, ...]:
    """The colours of a part of the piece, from every so many of the pixels of a mask."""
    return palette_of(lab.reshape(-1, 3)[np.flatnonzero(mask)[::FEWER]], part, most=most)[0]

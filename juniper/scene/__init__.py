"""Seeing the piece: datum, plant, container, blooms."""

from juniper.scene.amending import ACTS, BloomChange, NoBloom, Stroke, amend, prepare
from juniper.scene.blooms import ROLES, Bloom, like_blooms
from juniper.scene.correcting import Change, correct
from juniper.scene.cutout import CutOut, NoCutOut
from juniper.scene.cutout import installed as installed_cutout
from juniper.scene.datum import Datum, Spread, given_datum
from juniper.scene.empty import Empty, see_empty
from juniper.scene.framing import Framing, framing, framing_advice
from juniper.scene.painting import PetalStroke
from juniper.scene.scene import NothingFound, Raster, Scene, see
from juniper.scene.separation import BACKDROP, CONTAINER, PLANT, TABLE
from juniper.scene.stems import NoStem, Stem, StemChange, change_stems, find_stems, trace_of
from juniper.scene.tinting import TINTS, ColourChange
from juniper.scene.vessel import Vessel

__all__ = [
    "ACTS",
    "BACKDROP",
    "CONTAINER",
    "PLANT",
    "ROLES",
    "TABLE",
    "TINTS",
    "Bloom",
    "BloomChange",
    "Change",
    "ColourChange",
    "CutOut",
    "Datum",
    "Empty",
    "Framing",
    "NoBloom",
    "NoCutOut",
    "NoStem",
    "NothingFound",
    "PetalStroke",
    "Raster",
    "Scene",
    "Spread",
    "Stem",
    "StemChange",
    "Stroke",
    "Vessel",
    "amend",
    "change_stems",
    "correct",
    "find_stems",
    "framing",
    "framing_advice",
    "given_datum",
    "installed_cutout",
    "like_blooms",
    "prepare",
    "see",
    "see_empty",
    "trace_of",
]

"""Seeing the piece: datum, plant, container, blooms."""

from juniper.scene.amending import ACTS, BloomChange, NoBloom, Stroke, amend, prepare
from juniper.scene.blooms import ROLES, Bloom, like_blooms
from juniper.scene.colour_changes import TINTS, ColourChange
from juniper.scene.container.datum import Datum, HandleUncertainty, given_datum
from juniper.scene.container.placing import ContainerDrag, placed_by_drag
from juniper.scene.container.shape import ContainerShape
from juniper.scene.correcting import Change, correct
from juniper.scene.empty import Empty, see_empty
from juniper.scene.framing import Framing, framing, framing_advice
from juniper.scene.painting import PetalStroke
from juniper.scene.parts import Label
from juniper.scene.scene import NothingFound, Raster, Scene, see
from juniper.scene.segment.foreground import CutOut, NoCutOut
from juniper.scene.segment.foreground import installed as installed_cutout
from juniper.scene.several import group_datum
from juniper.scene.stems import NoStem, Stem, StemChange, change_stems, find_stems, trace_of
from juniper.scene.vessels import MOST_VESSELS, Vessel, VesselChange, change_vessels

__all__ = [
    "ACTS",
    "MOST_VESSELS",
    "ROLES",
    "TINTS",
    "Bloom",
    "BloomChange",
    "Change",
    "ColourChange",
    "ContainerDrag",
    "ContainerShape",
    "CutOut",
    "Datum",
    "Empty",
    "Framing",
    "HandleUncertainty",
    "Label",
    "NoBloom",
    "NoCutOut",
    "NoStem",
    "NothingFound",
    "PetalStroke",
    "Raster",
    "Scene",
    "Stem",
    "StemChange",
    "Stroke",
    "Vessel",
    "VesselChange",
    "amend",
    "change_stems",
    "change_vessels",
    "correct",
    "find_stems",
    "framing",
    "framing_advice",
    "given_datum",
    "group_datum",
    "installed_cutout",
    "like_blooms",
    "placed_by_drag",
    "prepare",
    "see",
    "see_empty",
    "trace_of",
]

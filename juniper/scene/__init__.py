"""Seeing the piece: datum, plant, container, blooms."""

from juniper.scene.amending import ACTS, BloomChange, NoBloom, Stroke, amend
from juniper.scene.blooms import ROLES, Bloom
from juniper.scene.datum import Datum, Spread, given_datum
from juniper.scene.framing import Framing, framing, framing_advice
from juniper.scene.scene import NothingFound, Raster, Scene, see
from juniper.scene.separation import BACKDROP, CONTAINER, PLANT, TABLE

__all__ = [
    "ACTS",
    "BACKDROP",
    "CONTAINER",
    "PLANT",
    "ROLES",
    "TABLE",
    "Bloom",
    "BloomChange",
    "Datum",
    "Framing",
    "NoBloom",
    "NothingFound",
    "Raster",
    "Scene",
    "Spread",
    "Stroke",
    "amend",
    "framing",
    "framing_advice",
    "given_datum",
    "see",
]

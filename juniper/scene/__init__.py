"""Seeing the piece: datum, plant, container, blooms."""

from juniper.scene.blooms import Bloom
from juniper.scene.datum import Datum, Spread, given_datum
from juniper.scene.framing import Framing, framing, framing_advice
from juniper.scene.scene import NothingFound, Raster, Scene, see
from juniper.scene.separation import BACKDROP, CONTAINER, PLANT, TABLE

__all__ = [
    "BACKDROP",
    "CONTAINER",
    "PLANT",
    "TABLE",
    "Bloom",
    "Datum",
    "Framing",
    "NothingFound",
    "Raster",
    "Scene",
    "Spread",
    "framing",
    "framing_advice",
    "given_datum",
    "see",
]

"""Seeing the piece: datum, plant, container, blooms."""

from juniper.scene.blooms import Bloom
from juniper.scene.datum import Datum, Spread, given_datum
from juniper.scene.scene import NothingFound, Raster, Scene, see
from juniper.scene.separation import BACKDROP, CONTAINER, PLANT, TABLE

__all__ = [
    "BACKDROP",
    "CONTAINER",
    "PLANT",
    "TABLE",
    "Bloom",
    "Datum",
    "NothingFound",
    "Raster",
    "Scene",
    "Spread",
    "given_datum",
    "see",
]

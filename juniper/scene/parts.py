"""What a pixel may be a part of: as networks tell it, and as the raster keeps it."""

from __future__ import annotations

from enum import IntEnum


class Part(IntEnum):
    """Parts of a picture, as the network of juniper.scene.segment tells them apart."""

    NOT_PIECE = 0  # wall, room, people, things that hold no water
    SUPPORT = 1  # table, shelf, sill, cloth: what the container stands on
    CONTAINER = 2  # its glass and water too
    LEAF = 3  # leaf, stem, twig, grass
    PETAL = 4  # petal, berry, seed head
    OTHER_VESSEL = 5  # a vessel beside or behind


class Label(IntEnum):
    """What a pixel of a raster is, as measures and masks have it."""

    BACKDROP = 0
    TABLE = 1
    CONTAINER = 2
    PLANT = 3

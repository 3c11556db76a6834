"""Colour: spaces, the artists' circle, palettes and schemes."""

from juniper.colour.circle import STEPS, hue_name, place_of
from juniper.colour.palette import Swatch, palette_of
from juniper.colour.schemes import Scheme, flowers_of, scheme_of
from juniper.colour.spaces import (
    ciede2000,
    from_hex,
    lab_from_srgb,
    oklab_from_srgb,
    srgb_from_lab,
    to_hex,
)

__all__ = [
    "STEPS",
    "Scheme",
    "Swatch",
    "ciede2000",
    "flowers_of",
    "from_hex",
    "hue_name",
    "lab_from_srgb",
    "oklab_from_srgb",
    "palette_of",
    "place_of",
    "scheme_of",
    "srgb_from_lab",
    "to_hex",
]

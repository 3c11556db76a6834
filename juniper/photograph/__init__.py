"""Reading photographs: distrustful, upright, within limits, without their metadata."""

from juniper.photograph.card import Card, find_card
from juniper.photograph.correction import adaptation, adapted, guessed_light
from juniper.photograph.decode import (
    LADDER,
    LARGEST_BYTES,
    LARGEST_PIXELS,
    Copies,
    Photograph,
    UnusablePhotograph,
    ladder,
    read_photograph,
    read_with_copies,
)
from juniper.photograph.quality import CORRECT, RETAKE, USE, Advice

__all__ = [
    "CORRECT",
    "LADDER",
    "LARGEST_BYTES",
    "LARGEST_PIXELS",
    "RETAKE",
    "USE",
    "Advice",
    "Card",
    "Copies",
    "Photograph",
    "UnusablePhotograph",
    "adaptation",
    "adapted",
    "find_card",
    "guessed_light",
    "ladder",
    "read_photograph",
    "read_with_copies",
]

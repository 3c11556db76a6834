"""Reading photographs: distrustful, upright, within limits, without their metadata."""

from juniper.photograph.card import Card, find_card
from juniper.photograph.correction import adaptation, adapted, guessed_light
from juniper.photograph.decode import (
    LARGEST_BYTES,
    LARGEST_PIXELS,
    RENDITIONS,
    Copies,
    Photograph,
    UnusablePhotograph,
    read_photograph,
    read_with_copies,
    renditions,
)
from juniper.photograph.quality import CORRECT, RETAKE, USE, Advice

__all__ = [
    "CORRECT",
    "LARGEST_BYTES",
    "LARGEST_PIXELS",
    "RENDITIONS",
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
    "read_photograph",
    "read_with_copies",
    "renditions",
]

"""Reading photographs: distrustful, upright, within limits, without their metadata."""

from juniper.photograph.decode import (
    LARGEST_BYTES,
    LARGEST_PIXELS,
    Photograph,
    UnusablePhotograph,
    derivative,
    read_photograph,
)

__all__ = [
    "LARGEST_BYTES",
    "LARGEST_PIXELS",
    "Photograph",
    "UnusablePhotograph",
    "derivative",
    "read_photograph",
]

"""The simulated camera: photograph-like pictures whose truth is known exactly."""

from juniper.photobooth.camera import Picture, take
from juniper.photobooth.pieces import PIECES, Piece

__all__ = ["PIECES", "Picture", "Piece", "take"]

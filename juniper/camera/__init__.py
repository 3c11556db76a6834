"""The simulated camera: photographs of arranged pieces whose truth is known exactly."""

from juniper.camera.capture import FAULTS, PHONE, Picture, Shot, take, with_fault
from juniper.camera.roll import Frame, frame, frames

__all__ = ["FAULTS", "PHONE", "Frame", "Picture", "Shot", "frame", "frames", "take", "with_fault"]

"""What each pixel of a photograph is a part of: networks, the look at a picture in two framings,
and the outline at the picture's own fineness.
"""

from juniper.scene.segment.engine import NoEngine
from juniper.scene.segment.outline import outlined
from juniper.scene.segment.probabilities import (
    POINTS,
    Keypoint,
    PartProbabilities,
    part_probabilities,
)

__all__ = ["POINTS", "Keypoint", "NoEngine", "PartProbabilities", "outlined", "part_probabilities"]

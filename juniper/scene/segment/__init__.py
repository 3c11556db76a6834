"""What each pixel of a photograph is a part of: networks, the look at a picture in two framings,
and the outline at the picture's own fineness.
"""

from juniper.scene.segment.engine import NoEngine
from juniper.scene.segment.look import POINTS, Keypoint, Look, look_at_picture
from juniper.scene.segment.outline import outlined

__all__ = ["POINTS", "Keypoint", "Look", "NoEngine", "look_at_picture", "outlined"]

"""A general network's foreground: which pixels stand out, by a salient-object network that knows
nothing of containers.

It is optional: bin/setup-cutout fetches one, or the owner points at an ONNX file of their own.
Where it is set up, the parts network takes its map as a hint.
"""

from __future__ import annotations

import json
import os
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

import cv2
import numpy as np

from juniper.scene.segment.engine import NoEngine, loaded

MODEL = Path(__file__).resolve().parents[3] / "data" / "cutout" / "model.onnx"
SIDE = 1024  # pixels: sides of the input where the network does not say
LARGEST_MODEL = 400_000_000  # bytes


class NoCutOut(RuntimeError):
    """The general network cannot run; the message says what is missing."""


@dataclass(frozen=True)
class CutOut:
    """A network in a file. Beside MODEL.onnx a MODEL.json may give `mean` and `scale` of the input
    (value / 255 - mean) / scale, and `output`, the number of the output that is the map; without it
    .5, 1 and 0.
    """

    path: Path

    @cached_property
    def _settings(self) -> dict:
        beside = self.path.with_suffix(".json")
        said = json.loads(beside.read_text()) if beside.is_file() else {}
        return {"mean": 0.5, "scale": 1.0, "output": 0} | said

    def foreground(self, pixels: np.ndarray) -> np.ndarray:
        """How much each pixel of an sRGB picture (uint8 h x w x 3) stands out, float32 (h, w) 0..1.
        Raises NoCutOut.
        """
        if not self.path.is_file():
            raise NoCutOut(
                f"There is no model {self.path.name}: run bin/setup-cutout, or set JUNIPER_CUTOUT"
                " to an ONNX file."
            )
        if self.path.stat().st_size > LARGEST_MODEL:
            raise NoCutOut(
                f"The model {self.path.name} is over {LARGEST_MODEL // 1_000_000} MB: point at a"
                " smaller one."
            )
        try:
            network = loaded(self.path)
            high, wide = network.sides(SIDE)
            x = (
                cv2.resize(pixels, (wide, high), interpolation=cv2.INTER_AREA).astype(np.float32)
                / 255
            )
            x = (
                (x - np.float32(self._settings["mean"])) / np.float32(self._settings["scale"])
            ).transpose(2, 0, 1)[None]
            out = np.squeeze(
                network.run(np.ascontiguousarray(x, np.float32))[self._settings["output"]]
            )
        except NoEngine as error:
            raise NoCutOut(f"The model {self.path.name} cannot be used: {error}") from error
        if out.ndim != 2 or not np.isfinite(out).all():
            raise NoCutOut(f"The model {self.path.name} gives no map of the picture.")
        return np.clip(cv2.resize(out, pixels.shape[1::-1], interpolation=cv2.INTER_LINEAR), 0, 1)


def installed() -> CutOut | None:
    """The general network if there is one: the model JUNIPER_CUTOUT names, or the one
    bin/setup-cutout set up.
    """
    path = Path(os.environ.get("JUNIPER_CUTOUT") or MODEL)
    return CutOut(path) if path.is_file() else None

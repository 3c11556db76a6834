"""The second engine: a salient-object network, run where the outline of the default engine is doubtful.

It is optional: onnxruntime and a model file are installed by bin/setup-cutout, or the owner points at a model of their own. It says
which pixels stand out and nothing of containers, so it amends the outline and does not replace it.
"""

from __future__ import annotations

import json
import os
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path

import cv2
import numpy as np

from juniper.scene.separation import BACKDROP, PLANT, Separation, thick

MODEL = Path(__file__).resolve().parents[2] / "data" / "cutout" / "model.onnx"
THICK = 0.02  # of the picture's longer side: what is thicker, the network sees well; stems and grass it loses
SURELY_NOT = 0.04  # of the network's map
LARGEST_CHANGE = 0.45  # of the plant: where the two differ by more, the network has seen something else
LARGEST_MODEL = 400_000_000  # bytes


class NoCutOut(RuntimeError):
    """The second engine cannot run; the message says what is missing."""


@dataclass(frozen=True)
class CutOut:
    """A network in a file. Beside MODEL.onnx a MODEL.json may give `mean` and `scale` of the input (value / 255 - mean) / scale, and `output`,
    the number of the output that is the map; without it .5, 1 and 0."""

    path: Path

    def _session(self):
        # Made anew for each picture and let go after it: a worker that kept it would hold a gigabyte for a few doubtful pictures.
        try:
            import onnxruntime
        except ImportError as error:
            raise NoCutOut("onnxruntime is not installed: run bin/setup-cutout.") from error
        if not self.path.is_file():
            raise NoCutOut(f"There is no model {self.path.name}: run bin/setup-cutout, or set JUNIPER_CUTOUT to an ONNX file.")
        if self.path.stat().st_size > LARGEST_MODEL:
            raise NoCutOut(f"The model {self.path.name} is over {LARGEST_MODEL // 1_000_000} MB: point at a smaller one.")
        options = onnxruntime.SessionOptions()
        options.intra_op_num_threads = 1
        options.enable_cpu_mem_arena = options.enable_mem_pattern = False
        options.graph_optimization_level = onnxruntime.GraphOptimizationLevel.ORT_ENABLE_BASIC
        try:
            return onnxruntime.InferenceSession(str(self.path), options, providers=["CPUExecutionProvider"])
        except Exception as error:  # the runtime raises classes of its own, undocumented
            raise NoCutOut(f"The model {self.path.name} cannot be used: {str(error).splitlines()[0]}") from error

    @cached_property
    def _settings(self) -> dict:
        beside = self.path.with_suffix(".json")
        said = json.loads(beside.read_text()) if beside.is_file() else {}
        return {"mean": 0.5, "scale": 1.0, "output": 0} | said

    def foreground(self, pixels: np.ndarray) -> np.ndarray:
        """How much each pixel of an sRGB picture (uint8 h x w x 3) stands out, float32 (h, w) 0..1. Raises NoCutOut."""
        run = self._session()
        wanted = run.get_inputs()[0]
        high, wide = (d if isinstance(d, int) and d > 0 else 1024 for d in wanted.shape[2:])
        x = cv2.resize(pixels, (wide, high), interpolation=cv2.INTER_AREA).astype(np.float32) / 255
        x = ((x - np.float32(self._settings["mean"])) / np.float32(self._settings["scale"])).transpose(2, 0, 1)[None]
        kind = np.float16 if "float16" in wanted.type else np.float32
        try:
            name = run.get_outputs()[self._settings["output"]].name
            (out,) = run.run([name], {wanted.name: np.ascontiguousarray(x, kind)})
        except Exception as error:
            raise NoCutOut(f"The model {self.path.name} does not take a picture: {str(error).splitlines()[0]}") from error
        out = np.squeeze(np.asarray(out, np.float32))
        if out.ndim != 2 or not np.isfinite(out).all():
            raise NoCutOut(f"The model {self.path.name} gives no map of the picture.")
        return np.clip(cv2.resize(out, pixels.shape[1::-1], interpolation=cv2.INTER_LINEAR), 0, 1)


def installed() -> CutOut | None:
    """The second engine if there is one: the model JUNIPER_CUTOUT names, or the one bin/setup-cutout set up."""
    path = Path(os.environ.get("JUNIPER_CUTOUT") or MODEL)
    return CutOut(path) if path.is_file() else None


def amended(parts: Separation, standing: np.ndarray) -> Separation:
    """A separation with the network's map (float32 h x w, 0..1) heeded where it knows better: thick things that it surely calls ground
    are no plant. Thin things stay as they were seen, and nothing comes in: what the network adds is as often container or wall.
    """
    plant = parts.labels == PLANT
    ground = thick(plant & (standing < SURELY_NOT), THICK)
    if not ground.any() or ground.sum() > LARGEST_CHANGE * plant.sum():
        return parts
    labels = parts.labels.copy()
    labels[ground] = BACKDROP
    return replace(parts, labels=labels)

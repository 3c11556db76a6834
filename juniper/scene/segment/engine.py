"""Networks read from ONNX files and run by OpenVINO, each loaded once a process."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from threading import Lock

import numpy as np


class NoEngine(RuntimeError):
    """A network cannot be run; the message says why in one sentence."""


class Network:
    """A network in a file. Inputs may have any size that it takes; one picture at a time. Raises
    NoEngine when it cannot be read.
    """

    def __init__(self, path: Path):
        if not path.is_file():
            raise NoEngine(f"The network {path.name} is missing.")
        try:
            import openvino
        except ImportError as error:
            raise NoEngine("OpenVINO is not installed, so no network is run.") from error
        try:
            core = openvino.Core()
            model = core.read_model(path)
            self._shape = model.inputs[0].partial_shape
            self._request = core.compile_model(
                model, "CPU", {"PERFORMANCE_HINT": "LATENCY"}
            ).create_infer_request()
        except Exception as error:  # the runtime raises classes of its own, undocumented
            raise NoEngine(f"The network {path.name} is damaged: {_last_line(error)}") from error
        self._lock = Lock()

    def sides(self, usual: int) -> tuple[int, int]:
        """Height and width of the picture that it takes; `usual` where it takes any."""
        high, wide = (d.get_length() if d.is_static else usual for d in list(self._shape)[2:])
        return high, wide

    def run(self, *inputs: np.ndarray) -> tuple[np.ndarray, ...]:
        """Its outputs (1, channels, h, w) in order, float32, for its inputs in order. Raises
        NoEngine when it does not take them.
        """
        try:
            with self._lock:
                found = self._request.infer(list(inputs))
                return tuple(np.array(value, np.float32) for value in found.values())
        except Exception as error:
            raise NoEngine(
                f"The network does not take this picture: {_last_line(error)}"
            ) from error


def _last_line(error: Exception) -> str:
    return (str(error).strip().splitlines() or ["no reason was given"])[-1]


@cache
def loaded(path: Path) -> Network:
    """The network in a file, loaded at the first call. Raises NoEngine."""
    return Network(path)

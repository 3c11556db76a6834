"""Writes a taught network as ONNX and holds what the core runs against what was taught."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import torch

from juniper.scene.segment.engine import Network
from juniper.training.network import PartsNetwork


def export(learnt: Path, out: Path) -> float:
    """Write the network of some weights to `out`; returns by how much its log odds differ at the
    most when run by the core's engine.
    """
    network = PartsNetwork(pretrained=False)
    network.load_state_dict(torch.load(learnt))
    network.eval()
    # The memory-sparing activation of the encoder has no ONNX form; its plain twin computes the
    # same.
    picture, hints = torch.full((1, 3, 256, 320), 128.0), torch.full((1, 2, 128, 160), 128.0)
    axes = {
        "picture": {2: "high", 3: "wide"},
        "hints": {2: "half_high", 3: "half_wide"},
        "parts": {2: "h2", 3: "w2"},
        "points": {2: "h4", 3: "w4"},
        "vessels": {2: "h4", 3: "w4"},
    }
    torch.onnx.export(
        network,
        (picture, hints),
        out,
        input_names=["picture", "hints"],
        output_names=["parts", "points", "vessels"],
        dynamic_axes=axes,
        opset_version=13,
        dynamo=False,
    )
    rng = np.random.default_rng(0)
    trial = (
        rng.uniform(0, 255, (1, 3, 224, 288)).astype(np.float32),
        rng.uniform(0, 255, (1, 2, 112, 144)).astype(np.float32),
    )
    run = Network(out).run(*trial)
    with torch.no_grad():
        taught = network(*map(torch.from_numpy, trial))
    return max(float(np.abs(a - b.numpy()).max()) for a, b in zip(run, taught, strict=True))

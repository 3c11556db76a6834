"""How a picture looks to eyes that lack one kind of cone (Machado, Oliveira & Fernandes 2009,
severity 1.0).
"""

from __future__ import annotations

import numpy as np

from juniper.colour.spaces import ciede2000, lab_from_srgb, linear_from_srgb, srgb_from_linear

# On linear sRGB; Machado et al. 2009, IEEE TVCG 15(6), table of matrices.
MATRICES = {
    "protan": np.array(
        [
            [0.152286, 1.052583, -0.204868],
            [0.114503, 0.786281, 0.099216],
            [-0.003882, -0.048116, 1.051998],
        ]
    ),
    "deutan": np.array(
        [
            [0.367322, 0.860646, -0.227968],
            [0.280085, 0.672501, 0.047413],
            [-0.011820, 0.042940, 0.968881],
        ]
    ),
    "tritan": np.array(
        [
            [1.255528, -0.076749, -0.178779],
            [-0.078411, 0.930809, 0.147602],
            [0.004733, 0.691367, 0.303900],
        ]
    ),
}
# CIEDE2000 under which two colours of a palette are hard to tell apart in a mixed piece (common
# practice)
HARD = 11.0


def as_seen(srgb, kind: str) -> np.ndarray:
    """sRGB colours (..., 3) 0..1 as they look to a protan, deutan or tritan eye."""
    return srgb_from_linear(linear_from_srgb(srgb) @ MATRICES[kind].T)


def confused(srgb, kind: str) -> list[tuple[int, int]]:
    """Pairs of colours (n, 3) sRGB that such an eye can hardly tell apart, though others can."""
    srgb = np.asarray(srgb, float).reshape(-1, 3)
    lab, seen = lab_from_srgb(srgb), lab_from_srgb(as_seen(srgb, kind))
    out = []
    for i in range(len(srgb)):
        for j in range(i):
            if ciede2000(seen[i], seen[j]) < HARD <= ciede2000(lab[i], lab[j]):
                out.append((j, i))
    return out

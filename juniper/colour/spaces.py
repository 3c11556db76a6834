"""Colour spaces and colour difference. All arrays are float with the channels last."""

from __future__ import annotations

import numpy as np

# IEC 61966-2-1 (sRGB) primaries to CIE XYZ, D65, as commonly published to seven places.
_XYZ = np.array(
    [
        [0.4124564, 0.3575761, 0.1804375],
        [0.2126729, 0.7151522, 0.0721750],
        [0.0193339, 0.1191920, 0.9503041],
    ]
)
_WHITE = _XYZ.sum(axis=1)


def linear_from_srgb(srgb) -> np.ndarray:
    """sRGB 0..1 to linear light 0..1 (IEC 61966-2-1).

    >>> float(linear_from_srgb(0.5).round(4))
    0.214
    """
    srgb = np.asarray(srgb, float)
    return np.where(srgb <= 0.04045, srgb / 12.92, ((srgb + 0.055) / 1.055) ** 2.4)


def srgb_from_linear(linear) -> np.ndarray:
    """Linear light to sRGB, clipped to 0..1 (IEC 61966-2-1).

    >>> float(srgb_from_linear(0.2140).round(3))
    0.5
    """
    linear = np.clip(np.asarray(linear, float), 0, 1)
    return np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1 / 2.4) - 0.055)


def lab_from_srgb(srgb) -> np.ndarray:
    """sRGB 0..1 to CIELAB under D65 (CIE 15:2004).

    >>> lab_from_srgb([1.0, 0.0, 0.0]).round(1).tolist()
    [53.2, 80.1, 67.2]
    """
    return _lab_from_ratio(linear_from_srgb(srgb) @ _XYZ.T / _WHITE)


def _lab_from_ratio(ratio: np.ndarray) -> np.ndarray:
    f = np.where(ratio > (6 / 29) ** 3, np.cbrt(ratio), ratio / (3 * (6 / 29) ** 2) + 4 / 29)
    x, y, z = f[..., 0], f[..., 1], f[..., 2]
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=-1)


def srgb_from_lab(lab) -> np.ndarray:
    """CIELAB under D65 to sRGB 0..1, clipped to the gamut (CIE 15:2004).

    >>> srgb_from_lab([53.2, 80.1, 67.2]).round(2).tolist()
    [1.0, 0.0, 0.0]
    """
    return srgb_from_linear((_ratio_from_lab(lab) * _WHITE) @ np.linalg.inv(_XYZ).T)


def _ratio_from_lab(lab) -> np.ndarray:
    lab = np.asarray(lab, float)
    y = (lab[..., 0] + 16) / 116
    f = np.stack([y + lab[..., 1] / 500, y, y - lab[..., 2] / 200], axis=-1)
    return np.where(f > 6 / 29, f**3, 3 * (6 / 29) ** 2 * (f - 4 / 29))


# Linear sRGB to cone-like responses, and their cube roots to OKLab (Ottosson 2020, "A perceptual
# color space for image processing").
_CONES = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_OKLAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
_CONES_FROM_XYZ = _CONES @ np.linalg.inv(_XYZ)


def oklab_from_srgb(srgb) -> np.ndarray:
    """sRGB 0..1 to OKLab (Ottosson 2020)."""
    return np.cbrt(linear_from_srgb(srgb) @ _CONES.T) @ _OKLAB.T


def oklab_from_lab(lab) -> np.ndarray:
    """CIELAB under D65 to OKLab, out of the gamut as well (CIE 15:2004; Ottosson 2020)."""
    return np.cbrt((_ratio_from_lab(lab) * _WHITE) @ _CONES_FROM_XYZ.T) @ _OKLAB.T


def lab_from_oklab(oklab) -> np.ndarray:
    """OKLab (..., 3) to CIELAB (..., 3) under D65: the inverse of oklab_from_lab()."""
    xyz = (np.asarray(oklab, float) @ np.linalg.inv(_OKLAB).T) ** 3 @ np.linalg.inv(
        _CONES_FROM_XYZ
    ).T
    return _lab_from_ratio(xyz / _WHITE)


def ok_hue(lab) -> np.ndarray:
    """OKLab hue angle, degrees 0..360, of CIELAB colours (..., 3). A blue keeps its hue there from
    deep to pale, which CIELAB bends towards violet.
    """
    ok = oklab_from_lab(lab)
    return np.degrees(np.arctan2(ok[..., 2], ok[..., 1])) % 360


def chroma_hue(lab) -> tuple[np.ndarray, np.ndarray]:
    """Chroma C*ab and hue angle hab in degrees 0..360 of CIELAB colours.

    >>> chroma, hue = chroma_hue([50.0, 3.0, 4.0])
    >>> round(float(chroma), 2), round(float(hue), 2)
    (5.0, 53.13)
    """
    lab = np.asarray(lab, float)
    return (
        np.hypot(lab[..., 1], lab[..., 2]),
        np.degrees(np.arctan2(lab[..., 2], lab[..., 1])) % 360,
    )


def from_hex(text: str) -> np.ndarray:
    """'#rrggbb' to sRGB (3,) 0..1. Raises ValueError for anything else.

    >>> [round(float(v), 3) for v in from_hex('#ff8000')]
    [1.0, 0.502, 0.0]
    """
    if len(text) != 7 or text[0] != "#":
        raise ValueError(f"not a colour: {text!r}")
    return np.array([int(text[i : i + 2], 16) for i in (1, 3, 5)]) / 255


def to_hex(srgb) -> str:
    """sRGB 0..1 to '#rrggbb'.

    >>> to_hex([1.0, 0.5, 0.0])
    '#ff8000'
    """
    return "#" + "".join(f"{round(255 * float(np.clip(v, 0, 1))):02x}" for v in srgb)


def ciede2000(first, second) -> np.ndarray:
    """CIEDE2000 difference of CIELAB colours (CIE 142-2001; Sharma, Wu & Dalal 2005).

    >>> float(ciede2000([50.0, 2.6772, -79.7751], [50.0, 0.0, -82.7485]).round(4))
    2.0425
    """
    l1, a1, b1 = np.moveaxis(np.asarray(first, float), -1, 0)
    l2, a2, b2 = np.moveaxis(np.asarray(second, float), -1, 0)
    mean_c7 = ((np.hypot(a1, b1) + np.hypot(a2, b2)) / 2) ** 7
    g = 0.5 * (1 - np.sqrt(mean_c7 / (mean_c7 + 25.0**7)))
    a1, a2 = (1 + g) * a1, (1 + g) * a2
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    grey = c1 * c2 == 0
    dh = np.where(grey, 0, (h2 - h1 + 180) % 360 - 180)
    # Exactly opposite hues: the sign follows h2 - h1, as in the published flow.
    dh = np.where(np.isclose(np.abs(h2 - h1), 180) & ~grey, h2 - h1, dh)
    d_l, d_c = l2 - l1, c2 - c1
    d_h = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(dh) / 2)
    l_mean, c_mean = (l1 + l2) / 2, (c1 + c2) / 2
    total = h1 + h2
    apart = np.abs(h1 - h2) > 180
    h_mean = np.where(
        grey, total, np.where(apart, np.where(total < 360, total + 360, total - 360), total) / 2
    )
    t = (
        1
        - 0.17 * np.cos(np.radians(h_mean - 30))
        + 0.24 * np.cos(np.radians(2 * h_mean))
        + 0.32 * np.cos(np.radians(3 * h_mean + 6))
        - 0.20 * np.cos(np.radians(4 * h_mean - 63))
    )
    s_l = 1 + 0.015 * (l_mean - 50) ** 2 / np.sqrt(20 + (l_mean - 50) ** 2)
    s_c = 1 + 0.045 * c_mean
    s_h = 1 + 0.015 * c_mean * t
    c7 = c_mean**7
    r_t = (
        -2
        * np.sqrt(c7 / (c7 + 25.0**7))
        * np.sin(np.radians(60 * np.exp(-(((h_mean - 275) / 25) ** 2))))
    )
    by_l, by_c, by_h = d_l / s_l, d_c / s_c, d_h / s_h
    return np.sqrt(by_l * by_l + by_c * by_c + by_h * by_h + r_t * by_c * by_h)

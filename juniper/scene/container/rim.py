"""The rim: where the highest of the lines up the container's wall end."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from juniper.scene.container.profile import Profile


@dataclass(frozen=True)
class RimSettings:
    """How the rim's line is read off the wall.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    enough: float = 0.07  # share of the lines up the wall that must reach the rim
    # of the container's height: the lip, which catches the light or the shade and is not of
    # the wall's colour
    lip: float = 0.008
    rim_lines: int = 24  # lines up the wall at which its end is read
    under_rim: float = 0.08  # of the container's height: what below the rim tells its width


RIM_LINE = RimSettings()


def rim_line(along, side, profile: Profile, open_: float) -> tuple[float, float, float]:
    """Level of the rim's middle, its half width, and the share of the rim line at which wall shows.

    The wall ends at the rim's front lip, the lower half of an ellipse `open_` as high as it is
    wide; leaves before it make it end lower. The rim is where the highest of the lines up the wall
    end.
    """
    levels = np.arange(len(profile.half))
    half_at = np.interp(along, levels, profile.half)
    u = side / np.maximum(half_at, 1.0)
    lines = np.clip(((u + 1) / 2 * RIM_LINE.rim_lines).astype(int), 0, RIM_LINE.rim_lines - 1)
    ends = np.full(RIM_LINE.rim_lines, np.nan)
    for k in range(RIM_LINE.rim_lines):
        on_line = along[lines == k]
        if len(on_line) > 12:
            ends[k] = np.partition(on_line, -4)[-4] + 0.5
    known = np.isfinite(ends)
    if known.sum() < 3:
        top = float(np.percentile(along, 99))
        return top, float(np.interp(top, levels, profile.half)), 0.0
    high = float(np.nanpercentile(ends, 90))
    half = float(np.interp(high, levels, profile.half))
    middle = (np.arange(RIM_LINE.rim_lines) + 0.5) / RIM_LINE.rim_lines * 2 - 1
    lifted = ends + open_ * half * np.sqrt(1 - middle**2)
    top = float(np.nanpercentile(lifted, 100 * (1 - RIM_LINE.enough))) + RIM_LINE.lip * (
        high - float(along.min())
    )
    shown = (
        float((lifted[known] > top - max(2.5, 0.025 * (top - along.min()))).sum())
        / RIM_LINE.rim_lines
    )
    # The outline often tapers off in its last pixels, where the rim does not.
    near = profile.half[
        (levels > top - RIM_LINE.under_rim * (top - float(along.min()))) & (levels <= top)
    ]
    half = float(np.interp(top, levels, profile.half))
    return top, max(half, float(np.median(near))) if len(near) else half, shown

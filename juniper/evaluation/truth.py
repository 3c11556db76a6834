"""The truth beside a picture, in any of the forms that folders of pictures have it: traced with
masks, or a datum read by eye.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image

from juniper.rules.document import FORMS
from juniper.values import Point


@dataclass(frozen=True, eq=False)
class Truth:
    """What is true of a picture; what its folder does not tell is None.

    Points in pixels; `ratio` is the height ratio that the upright picture shows, `own_ratio` the
    piece's own; `mask` (h, w) uint8 holds 0 backdrop, 1 table, 2 container, 3 plant, 4 other
    things; `blooms` have `centre`, `radius`, `visible_px`, `sort` (kind and hue), `role` and `hex`;
    `pitch` of the camera in radians, looking down above 0, and its `focal` length in pixels.
    """

    rim: Point
    base: Point
    rim_left: Point
    rim_right: Point
    top: Point | None
    ratio: float
    own_ratio: float | None = None
    mask: np.ndarray | None = None
    left_share: float | None = None
    foliage_share: float | None = None
    blooms: tuple[dict, ...] = ()
    height_cm: float | None = None
    glass: bool = False
    kind: str = ""
    backdrop: str = ""
    pitch: float | None = None
    focal: float | None = None

    @property
    def height(self) -> float:
        """Container height in pixels."""
        return float(np.hypot(*np.subtract(self.rim, self.base)))

    @property
    def up(self) -> np.ndarray:
        """Unit vector from base to rim."""
        return np.subtract(self.rim, self.base) / self.height


def mask_beside(picture: Path) -> Path:
    """Where the mask of a picture lies, if it has one."""
    return picture.with_suffix(".mask.png")


def truth_beside(picture: Path) -> Truth:
    """The truth of NAME.jpg from NAME.json and NAME.mask.png beside it. Raises ValueError when the
    file holds none of the known forms.
    """
    document = json.loads(picture.with_suffix(".json").read_text())
    place = mask_beside(picture)
    return truth_of(document, np.asarray(Image.open(place)) if place.exists() else None)


def truth_of(document: dict, mask: np.ndarray | None) -> Truth:
    """The truth of a document and a label mask. Raises ValueError when the document is none of the
    known forms.
    """
    try:
        if "container" not in document:
            return _by_eye(document)
        if "rim_centre_px" in document["container"]:
            return _second_studio(document, mask)
        return _traced(document, mask)
    except (KeyError, TypeError) as error:
        raise ValueError(f"The truth is of no known form: {error} is missing.") from error


def _by_eye(d: dict) -> Truth:
    rim, base = np.array(d["rim"], float), np.array(d["base"], float)
    up = (rim - base) / np.hypot(*(rim - base))
    # Heights were read along the picture's upright: the top lies where the axis meets that row.
    top = rim + up * (d["top_y"] - rim[1]) / up[1]
    return Truth(
        tuple(rim),
        tuple(base),
        tuple(d["rim_left"]),
        tuple(d["rim_right"]),
        tuple(top),
        float(d["height_ratio"]),
        glass=bool(d.get("glass")),
        kind="glass" if d.get("glass") else "",
    )


# What studios call the forms that are taught here.
FORM_OF = {
    "triangle": "symmetrical triangle",
    "L": "right-angle L",
    "S": "S-curve",
    "s": "S-curve",
    "dome": "round",
    "three": "three-stem",
    "horizontal low": "horizontal",
    "garden": "free",
    "grouped vessels": "free",
}


def form_of(document: dict) -> str:
    """The taught form that a piece of a document was made to; "free" where it is none of them."""
    form = FORM_OF.get(document.get("form", ""), document.get("form", ""))
    return form if form in FORMS else "free"


def as_traced(document: dict) -> dict:
    """A document of the second studio in the words of the first, as far as its container, measures,
    blooms and stems go; any other as it is.
    """
    box = document.get("container", {})
    if "rim_centre_px" not in box:
        return document
    shown = [b for b in document["blooms"] if b["centre_px"] is not None]
    return document | {
        "container": (
            box
            | {
                "rim": box["rim_centre_px"],
                "base": box["base_centre_px"],
                "rim_left": box["rim_left_px"],
                "rim_right": box["rim_right_px"],
            }
        ),
        "findings": {
            "height_ratio": document["ratios"]["height_ratio_image"],
            "left_area_share": document["balance"]["left_area_share"],
            "foliage_share": document["areas"]["foliage_share"],
        },
        "blooms": [
            b | {"centre": b["centre_px"], "radius": b["radius_px"], "hue": b.get("hue_name", "")}
            for b in shown
        ],
        "stems": [{"tip": s["tip_px"]} for s in document["stems"] if s.get("tip_px")],
        "flaws": document.get("flaws", []),
    }


GREY = "#808080"  # of a bloom whose colour the truth does not tell


def _second_studio(d: dict, mask: np.ndarray | None) -> Truth:
    c, ratios, camera = d["container"], d["ratios"], d.get("camera", {})
    # one that is hidden altogether has no place
    shown = (b for b in d["blooms"] if b["centre_px"] is not None)
    blooms = tuple(
        {
            "centre": b["centre_px"],
            "radius": b["radius_px"],
            "visible_px": b["visible_px"],
            "role": b.get("role", "mass"),
            "sort": f"{b.get('hue_name', '')} {b.get('kind', '')}",
            "hex": b.get("colour_srgb_hex", GREY),
        }
        for b in shown
    )
    pitch, wide, focal = camera.get("pitch_deg"), camera.get("fov_long_side_deg"), None
    if wide is not None and "image" in d:
        focal = max(d["image"].values()) / 2 / float(np.tan(np.radians(wide) / 2))
    return Truth(
        tuple(c["rim_centre_px"]),
        tuple(c["base_centre_px"]),
        tuple(c["rim_left_px"]),
        tuple(c["rim_right_px"]),
        tuple(d["plant"]["top_px"]),
        ratios["height_ratio_image"],
        ratios["height_ratio_3d"],
        mask,
        d["balance"]["left_area_share"],
        d["areas"]["foliage_share"],
        blooms,
        c["height_cm"],
        bool(c["clear"]),
        c["kind"],
        d.get("backdrop", ""),
        None if pitch is None else float(np.radians(pitch)),
        focal,
    )


def _traced(d: dict, mask: np.ndarray | None) -> Truth:
    c, found, plant = d["container"], d["findings"], d["plant"]
    own = found.get("height_ratio_3d")
    if own is None and "height_above_rim_cm" in plant and c.get("height_cm"):
        own = plant["height_above_rim_cm"] / c["height_cm"]
    blooms = tuple(
        {
            "centre": b["centre"],
            "radius": b["radius"],
            "visible_px": b["visible_px"],
            "role": b.get("role", "mass"),
            "sort": f"{b.get('hue', '')} {b.get('kind', '')}",
            "hex": b.get("mean_hex") or b.get("albedo_hex", GREY),
        }
        for b in d["blooms"]
    )
    pitch = d.get("camera", {}).get("pitch_deg")
    return Truth(
        tuple(c["rim"]),
        tuple(c["base"]),
        tuple(c["rim_left"]),
        tuple(c["rim_right"]),
        tuple(plant["top"]),
        found["height_ratio"],
        own,
        mask,
        found["left_area_share"],
        found["foliage_share"],
        blooms,
        c.get("height_cm"),
        bool(c.get("clear")),
        c.get("kind", ""),
        str(d.get("backdrop", "")),
        None if pitch is None else float(np.radians(-pitch)),
        _focal_of(d),
    )


def _focal_of(d: dict) -> float | None:
    """Focal length in pixels of a traced picture, where its truth tells it."""
    camera = d.get("camera", {})
    if "fov_y_deg" in camera:
        return d["image"]["height"] / 2 / float(np.tan(np.radians(camera["fov_y_deg"]) / 2))
    return camera.get("focal_px")

"""Pieces on the simulated camera's shelf: containers, forms, palettes and named faults (invented)."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Vessel:
    """A turned container: half widths (cm) at even heights from foot to rim, and its colour."""

    name: str
    height_cm: float
    profile: tuple[float, ...]
    colour: str

    @property
    def width_cm(self) -> float:
        """Greatest width."""
        return 2 * max(self.profile)


VESSELS = {
    "tall cylinder": Vessel("tall cylinder", 24.0, (5.0, 5.2, 5.3, 5.3, 5.2), "#8794a0"),
    "flared vase": Vessel("flared vase", 25.0, (4.4, 4.2, 4.6, 5.6, 7.2), "#43617f"),
    "urn": Vessel("urn", 21.0, (5.2, 2.0, 2.2, 6.4, 8.0, 7.8, 6.8), "#d2ccbd"),
    "ginger jar": Vessel("ginger jar", 22.0, (5.0, 7.4, 8.6, 8.2, 6.0, 4.4), "#56705f"),
    "low bowl": Vessel("low bowl", 10.0, (5.0, 9.5, 12.0, 13.2), "#6f7d88"),
}


@dataclass(frozen=True)
class Piece:
    """One arrangement to be photographed.

    `height` is the visible plant height over the container's height, `spread` its half width over
    plant height; flowers are (focal, mass, line) colours; `lean` tilts the weight to the right;
    `fault` is one of '', 'too tall', 'too squat', 'twin tips', 'focal high', 'bare rim'.
    """

    vessel: str
    form: str
    height: float
    spread: float
    flowers: tuple[str, str, str]
    backdrop: str = "#b9b6b0"
    table: str = "#a9a7a3"
    lean: float = 0.0
    fault: str = ""
    roll: float = 0.0


PIECES = (
    Piece("tall cylinder", "symmetrical triangle", 1.75, 0.42, ("#f2c21c", "#f0a01c", "#e6701a")),
    Piece("urn", "symmetrical triangle", 1.65, 0.55, ("#b81f28", "#d9656c", "#efb9bb"), "#c9c2b6", "#8a6a4c"),
    Piece("flared vase", "right-angle L", 1.95, 0.45, ("#e6701a", "#3b68b6", "#d6451e"), "#5d6672", "#93704f", lean=0.35),
    Piece("ginger jar", "symmetrical triangle", 2.9, 0.30, ("#a3236b", "#8d62b4", "#6a3898"), "#b7ad9d", "#b8b6b2", fault="too tall"),
    Piece("urn", "round", 1.0, 0.85, ("#f2f0e8", "#f0e2bf", "#f2f0e8"), "#4c5560", "#b3b1ad", fault="too squat"),
    Piece("tall cylinder", "symmetrical triangle", 1.8, 0.45, ("#562a84", "#8d62b4", "#4b47a6"), "#b5b2ab", "#9b7858", fault="twin tips"),
    Piece("flared vase", "symmetrical triangle", 1.7, 0.50, ("#b81f28", "#d6451e", "#e6701a"), "#a8b0b4", "#aeaba6", roll=1.5),
    Piece("ginger jar", "crescent", 1.55, 0.62, ("#3b68b6", "#4b47a6", "#f2f0e8"), "#c3bcae", "#8f6e50", lean=-0.3),
    Piece("tall cylinder", "vertical", 2.1, 0.24, ("#d6451e", "#f0a01c", "#f2c21c"), "#9aa1a5", "#b0aeaa", fault="bare rim"),
    Piece("urn", "symmetrical triangle", 1.8, 0.48, ("#a3236b", "#efb9bb", "#d9656c"), "#bfb8ac", "#a5a29d", fault="focal high", roll=-1.2),
    Piece("low bowl", "horizontal", 1.9, 1.05, ("#f2c21c", "#8d62b4", "#562a84"), "#b4ada1", "#b5b3af"),
    Piece("flared vase", "fan", 1.85, 0.58, ("#f0a01c", "#b81f28", "#d6451e"), "#b0b5b8", "#927052"),
)  # fmt: skip

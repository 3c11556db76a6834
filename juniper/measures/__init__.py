"""Named measures of a piece, each with unit, uncertainty and evidence."""

from juniper.measures.allround import all_round
from juniper.measures.catalogue import DEFINITIONS, Definition
from juniper.measures.finding import EvidenceMark, Finding, Measured, Missing
from juniper.measures.measuring import Findings, measure, seen_from_the_side
from juniper.measures.surface import Surface, View, stems_under, surface_of

__all__ = [
    "DEFINITIONS",
    "Definition",
    "EvidenceMark",
    "Finding",
    "Findings",
    "Measured",
    "Missing",
    "Surface",
    "View",
    "all_round",
    "measure",
    "seen_from_the_side",
    "stems_under",
    "surface_of",
]

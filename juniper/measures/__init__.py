"""Named measures of a piece, each with unit, uncertainty and evidence."""

from juniper.measures.allround import all_round
from juniper.measures.catalogue import DEFINITIONS, Definition
from juniper.measures.finding import EvidenceMark, Finding, Measured, Missing
from juniper.measures.measuring import Findings, WarmStart, measure, seen_from_the_side, warm_start
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
    "WarmStart",
    "all_round",
    "measure",
    "seen_from_the_side",
    "stems_under",
    "surface_of",
    "warm_start",
]

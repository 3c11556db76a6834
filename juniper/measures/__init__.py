"""Named measures of a piece, each with unit, uncertainty and evidence."""

from juniper.measures.finding import Finding, Mark
from juniper.measures.measuring import Findings, measure
from juniper.measures.surface import Surface, View, surface_of, visual_weight

__all__ = ["Finding", "Findings", "Mark", "Surface", "View", "measure", "surface_of", "visual_weight"]

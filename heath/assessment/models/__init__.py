"""Pieces, their photographs, what markers say of them, and their marks."""

from heath.assessment.models.marks import Flag, Mark, MarkChange, MarkLine, PieceSnapshot
from heath.assessment.models.photographs import GIVEN, STAGE_VIEWS, Photograph, Piece, View
from heath.assessment.models.words import Answer, Cap, Correction, Override, Remark, places_of

__all__ = [
    "GIVEN",
    "STAGE_VIEWS",
    "Answer",
    "Cap",
    "Correction",
    "Flag",
    "Mark",
    "MarkChange",
    "MarkLine",
    "Override",
    "Photograph",
    "Piece",
    "PieceSnapshot",
    "Remark",
    "View",
    "places_of",
]

"""A bundle's tables: CSV with a description as a Frictionless data package (specs 1.0)."""

from __future__ import annotations

import csv
import json
from pathlib import Path

from heath.assessment.models import Piece
from heath.bundles.schema import PieceOf
from heath.classes.models import Course, Student
from heath.web.tables import plain

STUDENTS = (
    ("student", "integer"),
    ("class", "string"),
    ("term", "string"),
    ("name", "string"),
    ("number", "string"),
    ("level", "string"),
)
MARKS = (
    ("piece", "integer"),
    ("student", "integer"),
    ("name", "string"),
    ("class", "string"),
    ("brief", "string"),
    ("state", "string"),
    ("mark", "number"),
    ("award", "string"),
    ("rule_set", "string"),
    ("rule_set_version", "string"),
    ("second_marking", "boolean"),
)
LINES = (
    ("piece", "integer"),
    ("rule", "string"),
    ("family", "string"),
    ("measure", "string"),
    ("value", "number"),
    ("uncertainty", "number"),
    ("mark", "number"),
    ("weight", "number"),
    ("state", "string"),
)
KEYS = {"students": "student", "marks": "piece", "lines": None}


class Tables:
    """Writes the tables of a bundle row by row."""

    def __init__(self, root: Path, named: bool):
        self.folder, self.named = root / "tables", named
        self.folder.mkdir()
        self.heads = {"students": STUDENTS, "marks": MARKS, "lines": LINES}
        self.files = {
            name: (self.folder / f"{name}.csv").open("w", encoding="utf-8", newline="")
            for name in self.heads
        }
        self.writers = {name: csv.writer(file) for name, file in self.files.items()}
        for name, head in self.heads.items():
            self.writers[name].writerow([column for column, _ in head])

    def _row(self, name: str, *cells) -> None:
        self.writers[name].writerow(
            [
                "" if c is None else str(c).lower() if isinstance(c, bool) else plain(c)
                for c in cells
            ]
        )

    def student(self, one: Student, name: str, course: Course) -> None:
        """A student's row."""
        number = one.number if self.named else ""
        level = str(one.level) if one.level else ""
        self._row("students", one.pk, course.name, course.term, name, number, level)

    def piece(self, piece: Piece, document: PieceOf, name: str) -> None:
        """A piece's rows."""
        mark = document.mark
        self._row(
            "marks",
            piece.pk,
            piece.student_id,
            name,
            piece.brief.course.name,
            piece.brief.name,
            piece.state,
            mark.score if mark else None,
            mark.verdict.award if mark else "",
            mark.rule_set if mark else "",
            mark.rule_set_version if mark else "",
            piece.brief.second_of_id is not None,
        )
        for x in mark.verdict.lines if mark else ():
            self._row(
                "lines",
                piece.pk,
                x.rule,
                x.family or "",
                x.measure,
                x.value,
                x.uncertainty,
                x.score,
                x.weight,
                x.state,
            )

    def close(self) -> None:
        """Close the files and describe them."""
        for file in self.files.values():
            file.close()
        resources = [
            {
                "name": name,
                "path": f"{name}.csv",
                "profile": "tabular-data-resource",
                "format": "csv",
                "mediatype": "text/csv",
                "encoding": "utf-8",
                "schema": {
                    "fields": [{"name": column, "type": kind} for column, kind in head],
                    "missingValues": [""],
                }
                | ({"primaryKey": KEYS[name]} if KEYS[name] and name != "students" else {}),
            }
            for name, head in self.heads.items()
        ]
        package = {
            "profile": "tabular-data-package",
            "name": "juniper-heath-term",
            "resources": resources,
        }
        path = self.folder / "datapackage.json"
        path.write_text(json.dumps(package, indent=1), encoding="utf-8")

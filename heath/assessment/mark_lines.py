"""A given mark's lines as rows, so that records can be read over many pieces."""

from __future__ import annotations

from heath.assessment.models import Mark, MarkLine


def lines_of(mark: Mark) -> list[MarkLine]:
    """The rows of a mark's verdict, not kept yet."""
    lines = mark.verdict["lines"]
    weight = sum(x["weight"] for x in lines if x["score"] is not None)
    return [_row(mark, line, weight) for line in lines]


def keep_lines(mark: Mark) -> None:
    """Keep the rows of a mark in the place of those it had."""
    mark.lines.all().delete()
    MarkLine.objects.bulk_create(lines_of(mark))


def _row(mark: Mark, line: dict, weight: float) -> MarkLine:
    band = line.get("band") or [None] * 4
    counted = line["score"] is not None and weight > 0
    return MarkLine(
        mark=mark,
        rule=line["rule"],
        title=line.get("title", line["rule"])[:120],
        family=line.get("family", ""),
        measure=line["measure"],
        state=line["state"],
        score=line["score"],
        share=line["weight"] / weight if counted else 0.0,
        value=line["value"],
        uncertainty=line.get("uncertainty"),
        **dict(zip(("low_limit", "low", "high", "high_limit"), band, strict=True)),
        borderline=line["borderline"],
        spoken=bool(line.get("overridden")) or line["state"] == "waived",
    )

"""Palettes in and out: GIMP palette, CSV and SVG swatches."""

from __future__ import annotations

import csv
import io
import re
from dataclasses import dataclass
from xml.etree.ElementTree import Element, ParseError
from xml.sax.saxutils import escape

from defusedxml import DefusedXmlException, ElementTree

from juniper.colour.spaces import from_hex

MOST = 64  # colours of a palette that is read
LONGEST = 40  # characters of a colour's name
HEX = re.compile(r"#[0-9a-fA-F]{6}")
LEVEL = re.compile(r"[0-9]{1,3}")
SUFFIXES = ("gpl", "csv", "svg")


@dataclass(frozen=True)
class Colour:
    """A named colour, '#rrggbb'; `share` 0..1 where it is known."""

    name: str
    hex: str
    share: float | None = None


class NoPalette(ValueError):
    """A file that is no palette; the message tells which line, and what to do."""


def to_gpl(title: str, colours: tuple[Colour, ...]) -> str:
    """GIMP palette: a header, then red, green, blue 0..255 and a name on each line."""
    rows = [
        f"{r:3d} {g:3d} {b:3d}\t{_plain(c.name)}" for c in colours for r, g, b in [_levels(c.hex)]
    ]
    return (
        "\n".join(
            ["GIMP Palette", f"Name: {_plain(title)}", f"Columns: {min(len(rows), 8)}", "#", *rows]
        )
        + "\n"
    )


def to_csv(colours: tuple[Colour, ...]) -> str:
    """CSV with the columns name, hex, share."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(["name", "hex", "share"])
    for c in colours:
        # A name that a spreadsheet would take for a formula is led by an apostrophe.
        name = f"'{c.name}" if c.name[:1] in "=+-@" else c.name
        table.writerow([name, c.hex, "" if c.share is None else f"{c.share:.4f}"])
    return out.getvalue()


def to_svg(title: str, colours: tuple[Colour, ...]) -> str:
    """SVG: a swatch for each colour, as broad as its share, with its name and hex written under
    it.
    """
    total = sum(c.share or 0 for c in colours)
    rows, x = [], 0.0
    for c in colours:
        wide = 640 * (c.share / total if total and c.share else 1 / max(1, len(colours)))
        rows.append(
            f'<rect x="{x:.1f}" width="{wide:.1f}" height="80"'
            f' fill="{c.hex}"><title>{escape(c.name)} {c.hex}</title></rect>'
        )
        rows.append(
            f'<text x="{x + 4:.1f}" y="96" font-size="11"'
            f' font-family="sans-serif">{escape(c.name)}</text>'
        )
        x += wide
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 640 104" width="640"'
        f' height="104"><title>{escape(title)}</title>' + "".join(rows) + "</svg>\n"
    )


def read(text: str) -> tuple[Colour, ...]:
    """The colours of a GIMP palette, a CSV with a column `hex`, or SVG swatches. Raises
    NoPalette.
    """
    text = text.lstrip("\ufeff")
    if text.lstrip().startswith("GIMP Palette"):
        found = _from_gpl(text)
    elif "<svg" in text[:2000]:
        found = _from_svg(text)
    else:
        found = _from_csv(text)
    if not found:
        raise NoPalette(
            "The file holds no colour. Give a GIMP palette, a CSV with a column hex, or SVG"
            " swatches."
        )
    if len(found) > MOST:
        raise NoPalette(
            f"The file holds {len(found)} colours; a brief's palette has {MOST} at most. Leave out"
            " the others."
        )
    return tuple(found)


def _from_gpl(text: str) -> list[Colour]:
    out = []
    for number, line in enumerate(text.splitlines(), 1):
        row = line.strip()
        if (
            not row
            or row.startswith("#")
            or number == 1
            or re.match(r"(Name|Columns|Channels):", row)
        ):
            continue
        fields = row.split(None, 3)
        if len(fields) < 3 or not all(LEVEL.fullmatch(f) and int(f) < 256 for f in fields[:3]):
            raise NoPalette(
                f"Line {number} is no colour: it should begin with red, green and blue from 0 to"
                " 255."
            )
        value = "#" + "".join(f"{int(f):02x}" for f in fields[:3])
        out.append(Colour(_name(fields[3]) if len(fields) > 3 else value, value))
    return out


def _from_csv(text: str) -> list[Colour]:
    try:
        rows = list(csv.reader(io.StringIO(text, newline="")))
    except csv.Error as error:
        raise NoPalette(
            "The file is no CSV that can be read: a field is too long, or a quotation mark is not"
            " closed."
        ) from error
    if not rows or "hex" not in (head := [c.strip().lower() for c in rows[0]]):
        raise NoPalette("The first line should name the columns, one of them hex.")
    at, named, shared = (
        head.index("hex"),
        head.index("name") if "name" in head else None,
        head.index("share") if "share" in head else None,
    )
    out = []
    for number, row in enumerate(rows[1:], 2):
        if not any(c.strip() for c in row):
            continue
        value = row[at].strip().lower() if len(row) > at else ""
        if not HEX.fullmatch(value):
            raise NoPalette(
                f"Line {number} has no colour in the column hex: write it like #b7431f."
            )
        name = row[named] if named is not None and len(row) > named else value
        share = row[shared].strip() if shared is not None and len(row) > shared else ""
        out.append(
            Colour(
                _name(name.removeprefix("'")),
                value,
                float(share) if re.fullmatch(r"[01]?\.?\d+", share) else None,
            )
        )
    return out


def _from_svg(text: str) -> list[Colour]:
    """The fills of an SVG's rectangles, named by their titles. No document type or entity of a
    stranger's file is followed.
    """
    try:
        root = ElementTree.fromstring(text, forbid_dtd=True)
    except (ParseError, DefusedXmlException, ValueError) as error:
        raise NoPalette(
            "The file is no SVG that can be read. Write it again without a document type, or give a"
            " GIMP palette."
        ) from error
    out = []
    for rect in root.iter():
        value = _fill(rect) if str(rect.tag).rpartition("}")[2] == "rect" else ""
        if value:
            title = next(
                (t.text or "" for t in rect if str(t.tag).rpartition("}")[2] == "title"), ""
            )
            out.append(Colour(_name(title.strip().removesuffix(value) or value), value))
    return out


def _fill(rect: Element) -> str:
    """The fill of a rectangle as '#rrggbb', by its style (CSS goes before attributes; SVG 1.1, 6.4)
    or attribute; '' for none.
    """
    style = dict(part.split(":", 1) for part in rect.get("style", "").split(";") if ":" in part)
    value = {k.strip(): v.strip() for k, v in style.items()}.get(
        "fill", rect.get("fill", "")
    ).strip()
    return value.lower() if HEX.fullmatch(value) else ""


def _name(text: str) -> str:
    return _plain(text)[:LONGEST] or "colour"


def _plain(text: str) -> str:
    return " ".join("".join(c if c.isprintable() else " " for c in text).split())


def _levels(value: str) -> tuple[int, int, int]:
    red, green, blue = (round(255 * float(v)) for v in from_hex(value))
    return red, green, blue

"""The catalogue of materials: flowers, foliages and dried material, what part they play, how they
are treated, how long they last; and what is no plant but stands among them.

`materials.csv` holds it, one row each; every row names its sources ("common practice", "from
memory" or the published one): of the whole, of its cautions, of its treatment and of its botanical
name. A school adds rows of its own in the same columns; those it leaves out are the usual ones of
the stem's texture. Months are of the northern hemisphere; in the southern one they are half a year
later.
"""

from __future__ import annotations

import csv
import io
import json
import re
from dataclasses import asdict, dataclass, fields
from functools import cache
from pathlib import Path
from typing import Any

from juniper.documents import read_json
from juniper.planning.treatment import COLUMNS as TREATED
from juniper.planning.treatment import Treatment, read_treatment, treatment_cells, usual_treatment

HERE = Path(__file__).with_name("materials.csv")
PLANT_ROLES = ("line", "focal", "mass", "filler", "foliage")
ROLES = (*PLANT_ROLES, "part")  # a part is no plant: bauble, candle, ribbon
ACROSS = {
    "line": 7.0,
    "focal": 10.0,
    "mass": 6.0,
    "filler": 9.0,
    "foliage": 14.0,
    "part": 6.0,
}  # cm, where a material's own is not told (common practice)
WIDEST = 60.0  # cm
LONGEST_LIFE = 1500  # days; dried material is kept for some years at the most (common practice)
FORMULA = tuple("=+-@")
DAYS = re.compile(r"[0-9]{1,4}")
MONTHS = re.compile(r"([0-9]{1,2})-([0-9]{1,2})")
# Words for the colours of flowers and leaves, each with the colour that it is drawn and counted as
# (common practice).
COLOURS = {
    "white": "#f4f1e8",
    "cream": "#f2e3bd",
    "yellow": "#f2c81f",
    "gold": "#e3a51c",
    "orange": "#e8761c",
    "bronze": "#a8622a",
    "brown": "#6b4a2f",
    "red": "#b5202a",
    "crimson": "#8e1626",
    "rose": "#dd7284",
    "plum": "#5c2343",
    "purple": "#6d2c86",
    "violet": "#7a4aa8",
    "blue": "#3763b4",
    "green": "#5f8a45",
    "lime": "#b6c64a",
    "silver": "#a9b3a6",
    "grey": "#8d8f8c",
}
TEXTURES = ("soft", "medium", "woody", "hollow", "bulb", "milky", "leaf", "dried", "part")
NO_PLANT = "no plant"  # in the place of a botanical name
FROM_MEMORY = "from memory"
CAUTIONS = {
    "poisonous": "poisonous; keep it from food, children and animals, and wash your hands",
    "irritant": "its sap irritates skin: wear gloves",
    "eyes": "its sap must not come into the eyes",
    "bleeds": "it bleeds sap: let it bleed apart, then rinse",
    "cats": "poisonous to cats or other animals",
    "thorns": "thorns or sharp edges: strip them, and wear gloves",
    "pollen": "its pollen stains: take the anthers off as they open",
    "dust": "it sheds dust or fluff: keep it from food and from those who cough at it",
    "flame": "open flame: away from all that is dry, never alone; many places forbid it",
    "breaks": "it breaks into sharp splinters: keep it from edges and from small hands",
    "sharp": "sharp points: turn them in or down, and count them out again",
    "small": "small parts: keep them from small children and from animals",
}
PROPER = frozenset(
    {
        "African",
        "Canterbury",
        "Dame's",
        "Japanese",
        "Lawson's",
        "Norway",
        "Solomon's",
        "Virginia",
        "Chinese",
        "Dutch",
        "Guernsey",
        "Iceland",
        "Italian",
        "Mexican",
        "Michaelmas",
        "New",
        "Peruvian",
        "Swiss",
    }
)
NOT_FOR_FOOD = frozenset({"poisonous", "irritant", "cats"})


class FaultyMaterials(ValueError):
    """A catalogue that cannot be used; `faults` tells each line (from 1) and what is wrong with
    it.
    """

    def __init__(self, faults: list[tuple[int, str]]):
        self.faults = tuple(faults)
        super().__init__("; ".join(f"line {n}: {words}" for n, words in faults))


@dataclass(frozen=True)
class Material:
    """One material. `across` is what one stem of it covers, as the diameter of a disc in cm, `life`
    the usual range in days once conditioned, `months` when it is cut in the north (1 to 12),
    `colours` keys of COLOURS, `cautions` keys of CAUTIONS with `harm` their source, `named` where
    its botanical name was found, `source` where the rest is from.
    """

    slug: str
    common: str
    botanical: str
    role: str
    texture: str
    across: float
    life: tuple[int, int]
    months: tuple[int, ...]
    colours: tuple[str, ...]
    cautions: tuple[str, ...]
    harm: str
    named: str
    source: str
    treatment: Treatment

    @property
    def plant(self) -> bool:
        """Whether it is (or was) a plant, and no bauble, candle or ribbon."""
        return self.role != "part"

    @property
    def spoken(self) -> str:
        """Its common name within a sentence: names of places and peoples keep their capital."""
        return (
            self.common
            if self.common.split()[0] in PROPER
            else self.common[:1].lower() + self.common[1:]
        )

    @property
    def safe_near_food(self) -> bool:
        """Whether it may stand near food as far as this catalogue knows."""
        return not NOT_FOR_FOOD & set(self.cautions)

    def in_season(self, month: int, south: bool = False) -> bool:
        """Whether it is cut in a month (1 to 12), in the northern or the southern hemisphere."""
        return ((month + 5) % 12 + 1 if south else month) in self.months


# columns that a school's own list may leave out
OPTIONAL = frozenset({"across_cm", "harm", "named", *TREATED})
COLUMNS = (
    "slug",
    "common",
    "botanical",
    "role",
    "texture",
    "across_cm",
    "life_low",
    "life_high",
    "months",
    "colours",
    "cautions",
    "harm",
    "named",
    "source",
    *TREATED,
)


# columns in which a person writes freely
SPOKEN = ("common", "botanical", "harm", "named", "source", "treated")


@cache
def catalogue() -> tuple[Material, ...]:
    """The catalogue that ships."""
    return read_materials(HERE.read_text(encoding="utf-8"))


def read_materials(text: str) -> tuple[Material, ...]:
    """Materials from CSV in COLUMNS. Raises FaultyMaterials with every line that is at fault: then
    none is taken.
    """
    table = csv.DictReader(io.StringIO(text.lstrip("\ufeff"), newline=""))
    try:
        missing = [c for c in COLUMNS if c not in {*(table.fieldnames or ()), *OPTIONAL}]
        if missing:
            raise FaultyMaterials([(1, f"the column {missing[0]} is missing")])
        rows = list(table)
    except csv.Error as error:
        raise FaultyMaterials(
            [(table.line_num, f"this is no CSV that can be read ({error})")]
        ) from error
    found: list[Material] = []
    faults: list[tuple[int, str]] = []
    seen: dict[str, int] = {}
    for number, row in enumerate(rows, 2):
        try:
            one = _material(row)
            if one.slug in seen:
                raise ValueError(f"{one.slug} stands in line {seen[one.slug]} already")
            seen[one.slug] = number
            found.append(one)
        except ValueError as error:
            faults.append((number, str(error)))
    if faults:
        raise FaultyMaterials(faults)
    return tuple(found)


def _material(row: dict) -> Material:
    text = {c: " ".join((row.get(c) or "").split()) for c in COLUMNS}
    for column in SPOKEN:
        if text[column][:1] == "'" and text[column][1:2] in FORMULA:
            text[column] = text[column][1:]
    for column in ("slug", "common", "botanical", "source"):
        if not text[column]:
            raise ValueError(f"the {column} is missing")
    for column, known in (("role", ROLES), ("texture", TEXTURES)):
        if text[column] not in known:
            raise ValueError(
                f"no {column} is called “{text[column]}”; there are {', '.join(known)}"
            )
    for column, word, names in (("cautions", "caution", CAUTIONS), ("colours", "colour", COLOURS)):
        unknown = [c for c in text[column].split() if c not in names]
        if unknown:
            raise ValueError(f"no {word} is called “{unknown[0]}”; there are {', '.join(names)}")
    if (text["role"] == "part") != (text["texture"] == "part"):
        raise ValueError("what is no plant has “part” both as its role and as its texture")
    across, life = _across(text), _life(text)
    return Material(
        text["slug"],
        text["common"],
        text["botanical"],
        text["role"],
        text["texture"],
        across,
        life,
        _months(text["months"]),
        tuple(text["colours"].split()),
        tuple(text["cautions"].split()),
        text["harm"] or text["source"],
        text["named"] or (NO_PLANT if text["role"] == "part" else FROM_MEMORY),
        text["source"],
        _treatment(text),
    )


def _treatment(text: dict[str, str]) -> Treatment:
    """As the row tells it, or as is usual where it tells nothing of it."""
    told = {c: text[c] for c in TREATED}
    return read_treatment(told) if any(told.values()) else usual_treatment(text["texture"])


def _across(text: dict[str, str]) -> float:
    """What a stem covers, cm: as the row says, or as its role usually does."""
    try:
        across = float(text["across_cm"] or ACROSS[text["role"]])
    except ValueError:
        raise ValueError("what a stem covers is not told in cm") from None
    if not 0 < across <= WIDEST:
        raise ValueError(f"a stem covers between 0 and {WIDEST:.0f} cm")
    return across


def _life(text: dict[str, str]) -> tuple[int, int]:
    """Vase life from and to, days."""
    if not all(DAYS.fullmatch(text[c]) for c in ("life_low", "life_high")):
        raise ValueError(f"its life is not told in whole days, {LONGEST_LIFE} at most")
    low, high = int(text["life_low"]), int(text["life_high"])
    if not 0 < low <= high <= LONGEST_LIFE:
        raise ValueError(f"its life is a range of days, the shorter first, {LONGEST_LIFE} at most")
    return low, high


def _months(text: str) -> tuple[int, ...]:
    """ "11-3" to (11, 12, 1, 2, 3)."""
    told = MONTHS.fullmatch(text)
    if not told:
        raise ValueError("its months are not told as first-last, such as 5-8")
    first, last = int(told[1]), int(told[2])
    if not (1 <= first <= 12 and 1 <= last <= 12):
        raise ValueError("a month lies between 1 and 12")
    return tuple((first - 1 + i) % 12 + 1 for i in range((last - first) % 12 + 1))


def _no_formula(text: str) -> str:
    """A text that a spreadsheet would take for a formula is led by an apostrophe (OWASP, "CSV
    injection").
    """
    return f"'{text}" if text[:1] in FORMULA else text


def as_csv(materials: tuple[Material, ...]) -> str:
    """Materials as CSV in COLUMNS; read_materials() gives the same back."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for m in materials:
        months = f"{m.months[0]}-{m.months[-1]}"
        writer.writerow(
            [
                m.slug,
                _no_formula(m.common),
                _no_formula(m.botanical),
                m.role,
                m.texture,
                f"{m.across:g}",
                *m.life,
                months,
                " ".join(m.colours),
                " ".join(m.cautions),
                _no_formula(m.harm),
                _no_formula(m.named),
                _no_formula(m.source),
                *map(_no_formula, treatment_cells(m.treatment)),
            ]
        )
    return out.getvalue()


def as_json(materials: tuple[Material, ...]) -> str:
    """Materials as JSON, one object each by its fields."""
    return json.dumps([asdict(m) for m in materials], indent=1, ensure_ascii=False)


def from_json(text: str) -> tuple[Material, ...]:
    """Materials from JSON as as_json() writes it. Raises FaultyMaterials."""

    def made_of(kind: type, row: dict[str, Any]) -> Any:
        named = [f.name for f in fields(kind)]
        given = {n: tuple(row[n]) if isinstance(row[n], list) else row[n] for n in named}
        return kind(**given)

    def material_of(row: dict[str, Any]) -> Material:
        return made_of(Material, row | {"treatment": made_of(Treatment, row["treatment"])})

    try:
        made = tuple(material_of(row) for row in read_json(text))
        text_of_made = as_csv(made)
    except (ValueError, KeyError, TypeError, AttributeError, IndexError) as error:
        raise FaultyMaterials([(1, f"it is no list of materials ({error})")]) from error
    return read_materials(text_of_made)

"""The constants that steer a result, held against the table they were measured with
(constants.json).

Whoever changes one changes marks: try it first (bin/accuracy, bin/trials), raise the core's
version, so that results of before are known as such and made anew, and write the table again with
`python -m juniper.tests.test_constants`.
"""

import ast
import dataclasses
import hashlib
import importlib
import json
import math
import numbers
import unittest
from pathlib import Path

import numpy as np

import juniper

TABLE = Path(__file__).with_name("constants.json")
CORE = Path(juniper.__file__).parent
PARTS = (
    "rules",
    "measures",
    "colour",
    "patterns",
    "planning",
    "scene",
    "photograph",
    "agreement",
    "records",
)
ALONE = ("assessment", "steadiness")
# letters of a name at most; of a value's JSON, from which only a digest is kept
NAME, LARGE = 24, 3000


class Unknown(TypeError):
    """A value that is no constant of numbers and words."""


def plain(value):
    """A value as JSON holds it. Raises Unknown for what is none of numbers, words and collections
    of them.
    """
    if isinstance(value, bool | str) or value is None:
        # sentences may be put better without any mark being another
        return "..." if isinstance(value, str) and len(value) > NAME else value
    if isinstance(value, numbers.Real):
        number = float(value)
        return number if math.isfinite(number) else repr(number)
    if isinstance(value, list | tuple | np.ndarray):
        return [plain(v) for v in (value.tolist() if isinstance(value, np.ndarray) else value)]
    if isinstance(value, set | frozenset):
        return sorted(map(str, value))
    if isinstance(value, dict):
        return {str(k): plain(v) for k, v in value.items()}
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        return {f.name: plain(getattr(value, f.name)) for f in dataclasses.fields(value)}
    raise Unknown


def constants() -> dict:
    """Every constant of the core's parts by module and name, and the defaults of its frozen
    settings.
    """
    paths = [
        p for part in PARTS for p in sorted((CORE / part).rglob("*.py")) if "tests" not in p.parts
    ]
    names = [".".join(p.relative_to(CORE.parent).with_suffix("").parts) for p in paths] + [
        f"juniper.{name}" for name in ALONE
    ]
    out = {}
    for name in names:
        module = importlib.import_module(name.removesuffix(".__init__"))
        own = {
            t.id
            for node in ast.parse(Path(module.__file__).read_text()).body
            for t in ast.walk(node)
            if isinstance(t, ast.Name) and isinstance(t.ctx, ast.Store)
        }
        for key, value in sorted(vars(module).items()):
            if not key.strip("_").isupper() or key not in own:
                continue
            try:
                written = json.dumps(plain(value), sort_keys=True)
            except Unknown:
                continue
            if any(c.isdigit() for c in written):
                out[f"{name}.{key}"] = (
                    json.loads(written)
                    if len(written) < LARGE
                    else hashlib.sha256(written.encode()).hexdigest()
                )
    return out


class Constants(unittest.TestCase):
    maxDiff = None

    def test_each_is_as_it_was_measured_with(self):
        table, now = json.loads(TABLE.read_text()), constants()
        changed = sorted(
            k
            for k in table["constants"].keys() | now.keys()
            if table["constants"].get(k) != now.get(k)
        )
        self.assertEqual(changed, [], "these constants changed: see the head of this file")

    def test_the_table_is_that_of_this_version(self):
        self.assertEqual(
            json.loads(TABLE.read_text())["version"],
            juniper.VERSION,
            "write the table again: see the head of this file",
        )


if __name__ == "__main__":
    TABLE.write_text(
        json.dumps(
            {"version": juniper.VERSION, "constants": constants()},
            indent=1,
            sort_keys=True,
            ensure_ascii=False,
        )
        + "\n"
    )

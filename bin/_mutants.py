"""Changes the computing core on purpose, a little at a time, and prints what share of such faults
the tests of each part notice.

A sample of mutations (cosmic-ray's operators: arithmetic, comparisons, logic, numbers) of each part
is tried, each in a copy of the project, against that part's own tests, the quickest first.
Annotations, decorators, words and what is only drawn are left alone.
"""

from __future__ import annotations

import argparse
import ast
import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from cosmic_ray.ast import ast_nodes, get_ast_from_path
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator, operator_names

ROOT = Path(__file__).resolve().parents[1]
# mutations tried of each
PARTS = {"rules": 40, "measures": 40, "colour": 40, "planning": 40, "scene": 16, "assessment": 12}
KINDS = (
    "ReplaceBinaryOperator",
    "ReplaceComparisonOperator",
    "NumberReplacer",
    "ReplaceUnaryOperator",
    "AddNot",
    "ReplaceAndWithOr",
    "ReplaceOrWithAnd",
    "ReplaceTrueWithFalse",
    "ReplaceFalseWithTrue",
    "ZeroIterationForLoop",
)
# Faults that nobody makes, or that change nothing: bits and identity in the place of figures, and
# the edge of a comparison of measured figures.
NOT_TRIED = (
    "Bit",
    "Shift",
    "_Is",
    "FloorDiv",
    "Mod",
    "Gt_GtE",
    "GtE_Gt",
    "Lt_LtE",
    "LtE_Lt",
    "Eq_LtE",
    "Eq_GtE",
    "Eq_Lt",
    "Eq_Gt",
)
SHOWN = (
    "drawn",
    "ringed",
    "counted",
    "joined",
    "arithmetic",
    "words",
    "_beside",
)  # functions that make only pictures or words
QUICK = 8.0  # seconds up to which a test module runs together with the others
# a run may take so many times as long as without a fault, and seconds beside
SLACK, LEAST = 4.0, 20.0


@dataclass(frozen=True)
class Mutation:
    """One fault: which operator, its how manieth place in a module, and where that is."""

    part: str
    module: Path
    operator: str
    occurrence: int
    line: int


def modules_of(part: str) -> list[Path]:
    """The modules of a part, without its tests."""
    if part == "assessment":
        return [ROOT / "juniper/assessment.py", ROOT / "juniper/steadiness.py"]
    return [
        p
        for p in sorted((ROOT / "juniper" / part).rglob("*.py"))
        if "tests" not in p.parts and p.name != "__init__.py"
    ]


def tests_of(part: str) -> list[str]:
    """The names of a part's test modules."""
    if part == "assessment":
        return [f"juniper.tests.test_{name}" for name in ("constants", "assessment", "steadiness")]
    found = sorted((ROOT / "juniper" / part / "tests").glob("test_*.py"))
    return [
        "juniper.tests.test_constants",
        *(".".join(p.relative_to(ROOT).with_suffix("").parts) for p in found),
    ]


def _left_alone(source: str) -> set[int]:
    """Lines on which nothing is changed: annotations alone, decorators, and functions of SHOWN."""
    out: set[int] = set()
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.FunctionDef):
            if node.name.startswith(SHOWN):
                out |= set(range(node.lineno, node.end_lineno + 1))
            out |= set(range(node.lineno, node.body[0].lineno))
            out |= {line for d in node.decorator_list for line in range(d.lineno, d.end_lineno + 1)}
        elif isinstance(node, ast.ClassDef):
            out |= {line for d in node.decorator_list for line in range(d.lineno, d.end_lineno + 1)}
        elif isinstance(node, ast.AnnAssign):
            out |= (
                {node.lineno}
                if node.value is None or "|" in ast.unparse(node.annotation)
                else set()
            )
    return out


def mutations(part: str) -> list[Mutation]:
    """Every mutation of a part."""
    out = []
    for module in modules_of(part):
        alone, tree = _left_alone(module.read_text()), get_ast_from_path(module)
        for name in operator_names():
            kind = name.split("/")[-1]
            if (
                not kind.startswith(KINDS)
                or any(k in kind for k in NOT_TRIED)
                or get_operator(name).arguments()
            ):
                continue
            operator = get_operator(name)()
            places = [
                start for node in ast_nodes(tree) for start, _ in operator.mutation_positions(node)
            ]
            out += [
                Mutation(part, module, name, i, at[0])
                for i, at in enumerate(places)
                if at[0] not in alone
            ]
    return out


def sampled(part: str, count: int, seed: int) -> list[Mutation]:
    """A sample of a part's mutations: a place by chance, then one of what can be done there, so
    that places with many ways count once.
    """
    rng, places = random.Random(seed), {}
    for one in mutations(part):
        places.setdefault((one.module, one.line), []).append(one)
    keys = sorted(places)
    return [rng.choice(places[key]) for key in rng.sample(keys, min(count, len(keys)))]


def run(folder: Path, tests: list[str], limit: float | None) -> bool:
    """Whether test modules pass in a copy of the project within so many seconds."""
    environment = os.environ | {"PYTHONHASHSEED": "0", "PYTHONDONTWRITEBYTECODE": "1"}
    try:
        done = subprocess.run(
            [sys.executable, "-m", "unittest", "-f", *tests],
            cwd=folder,
            env=environment,
            timeout=limit,
            check=False,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


def timed(folder: Path, part: str) -> list[tuple[list[str], float]]:
    """A part's test modules with how long they take without a fault: the quick ones together, then
    each slow one. Raises SystemExit where one fails.
    """
    alone = []
    for tests in tests_of(part):
        began = time.perf_counter()
        if not run(folder, [tests], None):
            sys.exit(f"{tests} fails without any fault: mend that first.")
        alone.append((tests, time.perf_counter() - began))
    alone.sort(key=lambda t: t[1])
    quick = [name for name, took in alone if took <= QUICK]
    together = [(quick, sum(took for name, took in alone if name in quick))] if quick else []
    return together + [([name], took) for name, took in alone if took > QUICK]


def noticed(folder: Path, one: Mutation, tests: list[tuple[list[str], float]]) -> bool:
    """Whether a part's tests notice a fault."""
    place = folder / one.module.relative_to(ROOT)
    whole = place.read_text()
    changed = mutate_code(whole, get_operator(one.operator)(), one.occurrence)
    if changed is None or changed == whole:
        return True
    place.write_text(changed)
    try:
        return not all(run(folder, names, SLACK * took + LEAST) for names, took in tests)
    finally:
        place.write_text(whole)


def copied(where: Path) -> Path:
    """A copy of the core for one worker."""
    shutil.copytree(
        ROOT / "juniper", where / "juniper", ignore=shutil.ignore_patterns("__pycache__")
    )
    shutil.copy(ROOT / "pyproject.toml", where)
    return where


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/mutants", description=__doc__)
    parser.add_argument(
        "parts", nargs="*", help=f"of {', '.join(PARTS)}; all of them when none is named"
    )
    parser.add_argument("--count", type=int, help="mutations tried of each part")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--json", action="store_true")
    options = parser.parse_args()
    parts = options.parts or list(PARTS)
    if unknown := set(parts) - set(PARTS):
        parser.error(f"no part is called {', '.join(sorted(unknown))}")
    shares = {}
    with tempfile.TemporaryDirectory() as room, ThreadPoolExecutor(2) as pool:
        folders = [copied(Path(room) / str(n)) for n in range(2)]
        for part in parts:
            tests = timed(folders[0], part)
            chosen = sampled(part, options.count or PARTS[part], options.seed)
            halves = [[(folder, one) for one in chosen[n::2]] for n, folder in enumerate(folders)]
            done = list(
                pool.map(
                    lambda half, t=tests: [(one, noticed(folder, one, t)) for folder, one in half],
                    halves,
                )
            )
            found = [pair for half in done for pair in half]
            for one, seen in sorted(found, key=lambda f: (f[0].module, f[0].line)):
                if not seen:
                    print(
                        f"  not noticed: {one.module.relative_to(ROOT)}:{one.line}"
                        f" {one.operator.split('/')[-1]} {one.occurrence}",
                        file=sys.stderr,
                        flush=True,
                    )
            shares[part] = {"tried": len(found), "noticed": sum(seen for _, seen in found)}
            if not options.json:
                print(
                    f"{part:12} {shares[part]['noticed']:3d} of {len(found):3d} faults noticed",
                    flush=True,
                )
    if options.json:
        print(json.dumps(shares))


if __name__ == "__main__":
    main()

"""Changes lines of the source one at a time, and sees whether the tests notice.

``tools/mutants.txt`` is the list that is kept: a file, its line as it is, and as it is changed.
Each mutant runs, in a copy of the source, the tests that its package is held by, up to the
first that fails. ``--draw N`` writes a new list from a seed: comparisons turned round, sums for
differences, products for quotients, ``and`` for ``or``, conditions turned, thresholds doubled.
"""

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from queue import Queue
from typing import NamedTuple

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "kickback"
LIST = ROOT / "tools" / "mutants.txt"
ENOUGH = 0.9
LONGEST = 400

TESTS = {
    "motion": ("test_printed", "test_fixed_step", "test_interruptions", "test_kinds",
               "test_motion", "test_rounded", "test_accuracy", "test_laws"),
    "kinds/foot/findings": ("test_integrity", "test_missed"),
    "kinds/foot/laws": ("test_laws", "test_moves", "test_kinds", "test_jump_kinds"),
    "kinds/foot/metrics": ("test_metrics", "test_motion", "test_accuracy", "test_rounded",
                           "test_moves"),
    "kinds/foot": ("test_jump_kinds", "test_interruptions", "test_motion", "test_accuracy",
                   "test_metrics", "test_rounded", "test_between", "test_moves"),
    "kinds": ("test_kinds", "test_metrics", "test_integrity"),
    "findings": ("test_integrity",),
    "laws": ("test_printed", "test_laws", "test_moves", "test_kinds"),
    "causes": ("test_causes", "test_frame_rates", "test_kinds"),
    "framerate": ("test_frame_rates", "test_causes"),
    "judging": ("test_comparison", "test_gate", "test_frame_rates"),
    "gate": ("test_gate",),
    "metrics": ("test_metrics", "test_kinds"),
    "files": ("test_files", "test_mapping", "test_readers",
              "test_logs", "test_encodings", "test_toml"),
    "record": ("test_record", "test_hostile", "test_recorder"),
}  # fmt: skip
"""The tests that hold each package, the closest first; the longest name that fits counts."""

EVERYWHERE = ("test_thresholds", "test_rules")
"""The tests that hold a little of every package, and are over soon."""

SWAPS: dict[type, tuple[str, str]] = {
    ast.Lt: ("<", ">="), ast.LtE: ("<=", ">"), ast.Gt: (">", "<="), ast.GtE: (">=", "<"),
    ast.Eq: ("==", "!="), ast.NotEq: ("!=", "=="), ast.Add: ("+", "-"), ast.Sub: ("-", "+"),
    ast.Mult: ("*", "/"), ast.Div: ("/", "*"), ast.And: ("and", "or"), ast.Or: ("or", "and"),
}  # fmt: skip


class Mutant(NamedTuple):
    """A line of a file, as it is and as it is changed."""

    file: str
    old: str
    new: str

    def tests(self) -> list[str]:
        """Return the test files that should notice."""
        fits = [name for name in TESTS if self.file.startswith(f"{name}/")]
        names = (*EVERYWHERE, *TESTS[max(fits, key=len)])
        return [f"tests/{name}.py" for name in names if (ROOT / "tests" / f"{name}.py").exists()]


def candidates(path: Path) -> Iterator[Mutant]:
    """Yield every mutant of a file whose line stands in it once."""
    text = path.read_text(encoding="utf-8")
    lines = text.split("\n")
    file = str(path.relative_to(SOURCE))
    for node in ast.walk(ast.parse(text)):
        for row, begin, end, old, new in changes(node):
            line = lines[row - 1]
            # columns of the tree count bytes
            raw = line.encode()
            between = raw[begin:end].decode()
            if between.count(old) == 1 and text.count(f"\n{line}\n") == 1:
                changed = raw[:begin].decode() + between.replace(old, new) + raw[end:].decode()
                yield Mutant(file, line.strip(), changed.strip())


def changes(node: ast.AST) -> Iterator[tuple[int, int, int, str, str]]:
    """Yield where on which line an operator or a threshold stands, and what to make of it."""
    if isinstance(node, ast.Compare) and len(node.ops) == 1:
        yield from between(node.left, node.comparators[0], node.ops[0])
    elif isinstance(node, ast.BinOp):
        yield from between(node.left, node.right, node.op)
    elif isinstance(node, ast.BoolOp):
        yield from between(node.values[0], node.values[1], node.op)
    elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
        yield node.lineno, node.col_offset, node.col_offset + 4, "not ", ""
    elif isinstance(node, ast.Assign) and isinstance(node.value, ast.Constant):
        value, name = node.value.value, getattr(node.targets[0], "id", "")
        number = isinstance(value, int | float) and not isinstance(value, bool)
        if name.isupper() and number and 1e-3 <= value <= 1000:
            at = node.value
            old = ast.unparse(at)
            yield at.lineno, at.col_offset, at.end_col_offset or 0, old, repr(value * 2)


def between(
    left: ast.expr, right: ast.expr, op: ast.AST
) -> Iterator[tuple[int, int, int, str, str]]:
    """Yield the place of an operator between two operands that stand on one line."""
    swap = SWAPS.get(type(op))
    if swap and left.end_lineno == right.lineno and left.end_col_offset is not None:
        yield right.lineno, left.end_col_offset, right.col_offset, *swap


def draw(many: int, seed: int) -> list[Mutant]:
    """Return so many mutants, an even share of each package's by its size."""
    chance = random.Random(seed)
    found: list[Mutant] = []
    for package in ("motion", "laws", "metrics", "kinds", "findings", "causes", "framerate",
                    "judging", "gate", "files", "record"):  # fmt: skip
        every = [
            mutant
            for path in sorted((SOURCE / package).rglob("*.py"))
            if "model" not in path.parts and path.name != "sender.py"
            for mutant in candidates(path)
        ]
        found.append(chance.choice(every))
        chance.shuffle(every)
        found += every[: many // 6]
    chance.shuffle(found)
    return list(dict.fromkeys(found))[:many]


def read_list() -> list[Mutant]:
    """Return the mutants that are kept; a line that the source no longer has is an error."""
    blocks = LIST.read_text(encoding="utf-8").strip().split("\n\n")
    mutants = [Mutant(*block.split("\n")) for block in blocks]
    for mutant in mutants:
        if mutant.old not in (SOURCE / mutant.file).read_text(encoding="utf-8"):
            sys.exit(f"{mutant.file} has no line '{mutant.old}': take it off {LIST.name}")
    return mutants


def caught(mutant: Mutant, copy: Path) -> bool:
    """Whether the tests fail on a mutant, in a copy of the source."""
    path = copy / "kickback" / mutant.file
    text = path.read_text(encoding="utf-8")
    path.write_text(text.replace(mutant.old, mutant.new, 1), encoding="utf-8")
    try:
        return not passes(mutant.tests(), copy)
    finally:
        path.write_text(text, encoding="utf-8")


def passes(tests: list[str], copy: Path) -> bool:
    """Whether tests pass on a copy of the source; a run that hangs does not."""
    quick = ["-x", "-q", "-n", "0", "-m", "not long"]
    try:
        done = subprocess.run(
            [sys.executable, "-m", "pytest", *quick, *tests],
            cwd=ROOT,
            env={**os.environ, "PYTHONPATH": str(copy)},
            capture_output=True,
            timeout=LONGEST,
            check=False,
        )
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


def run(mutants: list[Mutant], jobs: int) -> list[Mutant]:
    """Return the mutants that no test noticed."""
    left: list[Mutant] = []
    with tempfile.TemporaryDirectory() as folder:
        copies: Queue[Path] = Queue()
        for number in range(jobs):
            copy = Path(folder) / str(number)
            shutil.copytree(SOURCE, copy / "kickback", symlinks=False)
            copies.put(copy)

        every = sorted({name for mutant in mutants for name in mutant.tests()})
        if not passes(every, copy):
            sys.exit("the tests fail on the source as it is: they notice nothing then")

        def one(mutant: Mutant) -> None:
            copy = copies.get()
            try:
                noticed = caught(mutant, copy)
            finally:
                copies.put(copy)
            if not noticed:
                left.append(mutant)
                sys.stdout.write(f"{mutant.file}: {mutant.old}\n    → {mutant.new}\n")
                sys.stdout.flush()

        with ThreadPoolExecutor(jobs) as pool:
            list(pool.map(one, mutants))
    return left


def main() -> int:
    """Draw a list, or run the one that is kept."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--draw", type=int, metavar="N")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--jobs", type=int, default=os.cpu_count() or 2)
    parser.add_argument("--only", default="", help="only files whose path begins so")
    chosen = parser.parse_args()
    if chosen.draw:
        text = "\n\n".join("\n".join(one) for one in draw(chosen.draw, chosen.seed))
        LIST.write_text(text + "\n", encoding="utf-8")
        return 0
    mutants = [one for one in read_list() if one.file.startswith(chosen.only)]
    left = run(mutants, chosen.jobs)
    share = 1 - len(left) / max(1, len(mutants))
    sys.stdout.write(f"{len(mutants) - len(left)} of {len(mutants)} mutants caught ({share:.0%})\n")
    return 0 if share >= ENOUGH else 1


if __name__ == "__main__":
    sys.exit(main())

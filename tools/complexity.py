"""Fails where a function of the source decides too much, by a counter that counts everything.

``radon`` counts and/or, ternaries and comprehensions beside branches and loops.
"""

import sys
from collections.abc import Iterator
from pathlib import Path

from radon.complexity import cc_visit

MOST = 12
SOURCE = Path(__file__).parents[1] / "src"


def too_complex() -> Iterator[str]:
    """Yield a line for each function over the limit."""
    for path in sorted(SOURCE.rglob("*.py")):
        for block in cc_visit(path.read_text(encoding="utf-8")):
            for one in getattr(block, "methods", None) or [block]:
                if one.complexity > MOST and one.letter != "C":
                    yield f"{path}:{one.lineno}: {one.name} has {one.complexity}, over {MOST}"


if __name__ == "__main__":
    found = list(too_complex())
    sys.stdout.writelines(f"{line}\n" for line in found)
    sys.exit(1 if found else 0)

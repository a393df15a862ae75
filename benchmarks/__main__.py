"""``make bench``: what the program costs, as ratios measured side by side in one run."""

import compileall
import sys
import tempfile
import time
from functools import partial
from pathlib import Path

import numpy as np
from tests.truth.recurrence import during, play

import kickback
from benchmarks import recorder
from benchmarks.data import FRAMES, files, long_take_of, minutes, sides
from benchmarks.side_by_side import KICKBACK, PYTHON, paired, process, report
from kickback.kinds.foot.model.exercises import standard_drill
from kickback.kinds.foot.model.simulate import simulate_many
from kickback.kinds.measuring import measure
from kickback.takes.take import Take

READ = """
import sys
from pyarrow import csv
csv.read_csv(sys.argv[1], read_options=csv.ReadOptions(skip_rows=1))
"""


def start_up() -> None:
    base, helped = paired([process(PYTHON, "-c", "import click"), process(KICKBACK, "--help")], 21)
    report(
        "kickback --help / python -c 'import click'",
        [b / a for a, b in zip(base, helped, strict=True)],
        "1.3 at most",
    )


def ordinary_take() -> None:
    path = files(1200)
    base, lines, table = paired(
        [
            process(PYTHON, "-c", "import numpy"),
            process(KICKBACK, "measure", str(path["arrays"])),
            process(KICKBACK, "measure", str(path["csv"])),
        ],
        21,
    )
    for name, times in (("JSON Lines", lines), ("CSV", table)):
        report(
            f"measure, 1,200 frames as {name} / (1.5 × import numpy + 0.1 s)",
            [b / (1.5 * a + 0.1) for a, b in zip(base, times, strict=True)],
            "1 at most",
        )


def long_take() -> None:
    path = files(FRAMES)
    base, start, table, parquet, arrays, objects = paired(
        [
            process(PYTHON, "-c", READ, str(path["csv"])),
            process(PYTHON, "-c", "import numpy, pyarrow.csv"),
            *(process(KICKBACK, "measure", str(path[name])) for name in path),
        ],
        5,
    )
    small = paired([process(KICKBACK, "measure", str(files(1200)["csv"]))], 5)[0]
    report(
        f"measure, CSV of {FRAMES:,} × 14 / a process that only reads it",
        [b / a for a, b in zip(base, table, strict=True)],
        "2 at most",
    )
    report(
        "the same without start-up",
        [(b - s) / (a - i) for a, i, b, s in zip(base, start, table, small, strict=True)],
        "1.5 at most",
    )
    report(
        "measure, Parquet / CSV",
        [b / a for a, b in zip(table, parquet, strict=True)],
        "0.5 at most",
    )
    report(
        "measure, JSON Lines of arrays / CSV",
        [b / a for a, b in zip(table, arrays, strict=True)],
        "2 at most",
    )
    report(
        "measure, JSON Lines of objects / CSV",
        [b / a for a, b in zip(table, objects, strict=True)],
        "5 at most",
    )


def laws() -> None:
    path = str(files(FRAMES)["csv"])
    measured, read = paired([process(KICKBACK, "measure", path), process(KICKBACK, "law", path)], 5)
    report(
        f"law / measure, CSV of {FRAMES:,} × 14",
        [b / a for a, b in zip(measured, read, strict=True)],
        "1.5 at most",
    )


def frame_rates() -> None:
    """Ten takes of a minute at five rates: what looking for causes adds to measuring them."""
    path = str(minutes())
    measured, rated = paired(
        [process(KICKBACK, "measure", path), process(KICKBACK, "framerate", path)], 5
    )
    report(
        "framerate / measure, ten takes of a minute at five rates",
        [b / a for a, b in zip(measured, rated, strict=True)],
        "1.5 at most",
    )


def comparisons() -> None:
    """Hold a hundred takes against a hundred, the bootstrap included; gate the demo's takes."""
    a, b = (str(folder) for folder in sides(100))
    measured, compared = paired(
        [process(KICKBACK, "measure", a, b), process(KICKBACK, "compare", a, b)], 3
    )
    report(
        "compare, 100 takes with 100 / measure of all",
        [b / a for a, b in zip(measured, compared, strict=True)],
        "1.2 at most",
    )
    with tempfile.TemporaryDirectory() as folder:
        process(KICKBACK, "demo", folder)()
        takes = [str(path) for path in sorted(Path(folder).glob("takes/brisk-[0-9]*"))]
        project = ("--project", folder)
        measured, gated = paired(
            [
                process(KICKBACK, "measure", *takes, *project),
                process(KICKBACK, "gate", *takes, *project),
            ],
            11,
        )
    report(
        "gate on the demo / measure",
        [b / a for a, b in zip(measured, gated, strict=True)],
        "2 at most",
    )


def planes() -> None:
    """Measure the same moves from the side and in three dimensions, in the process itself."""

    def timed(take: Take) -> float:
        begin = time.perf_counter()
        measure(take)
        return time.perf_counter() - begin

    takes = [long_take_of(view, FRAMES) for view in ("side", "3d")]
    side, solid = paired([partial(timed, take) for take in takes], 5)
    report(
        f"measure, {FRAMES:,} frames in 3D / the same moves from the side",
        [b / a for a, b in zip(side, solid, strict=True)],
        "1.3 at most",
    )


def many_sets() -> None:
    """Play many parameter sets at once, and a sample of them in a plain loop of floats."""
    drill = standard_drill()
    short = type(drill)(name="short", length=10.0, inputs=drill.inputs, floor=drill.floor)
    speeds = np.linspace(4, 12, 10_000)
    dt = np.full(600, 1 / 60)
    move = during(
        *((i.at, i.until, i.values["in_move_x"]) for i in drill.inputs if "in_move_x" in i.values)
    )
    jump = during(*((i.at, i.until, 1) for i in drill.inputs if "in_jump" in i.values))

    def together() -> float:
        begin = time.perf_counter()
        simulate_many([{"run_speed": float(speed)} for speed in speeds], short)
        return time.perf_counter() - begin

    def one_by_one() -> float:
        begin = time.perf_counter()
        for speed in speeds[::100]:
            play(dt, move, jump, theta=0.5, top=float(speed), cut=0.5)
        return 100 * (time.perf_counter() - begin)

    loop, at_once = paired([one_by_one, together], 5)
    report(
        "10,000 parameter sets × 600 frames at once / as a plain Python loop",
        [b / a for a, b in zip(loop, at_once, strict=True)],
        "0.05 at most",
    )


def main() -> None:
    """Run all, or those named on the command line."""
    compileall.compile_dir(Path(kickback.__file__).parent, quiet=1)
    own = (start_up, ordinary_take, long_take, laws, frame_rates, comparisons, planes, many_sets)
    known = {
        job.__name__: job for job in (*own, recorder.flat_out, recorder.steady, recorder.sender)
    }
    for name in sys.argv[1:] or known:
        known[name]()


if __name__ == "__main__":
    main()

"""``make bench``: what the program costs, as ratios measured side by side in one run."""

import compileall
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

import numpy as np
from tests.truth.recurrence import during, play

import kickback
from benchmarks import recorder
from benchmarks.data import FRAMES, files, long_take_of, minutes, of_kind, sides, thousand
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


def ratio(name: str, below: Sequence[float], above: Sequence[float], aim: str) -> None:
    """Report how many times the one the other takes, pair by pair."""
    report(name, [b / a for a, b in zip(below, above, strict=True)], aim)


def kickback_process(*words: object) -> Callable[[], float]:
    return process(KICKBACK, *map(str, words))


def start_up() -> None:
    base, helped = paired([process(PYTHON, "-c", "import click"), kickback_process("--help")], 21)
    ratio("kickback --help / python -c 'import click'", base, helped, "1.2 at most")


def ordinary_take() -> None:
    """Measure 20 seconds of play, which a person waits for after each change of a number."""
    plain, filmed = files(1200, filmed=False), files(1200)
    base, *times = paired(
        [
            process(PYTHON, "-c", "import numpy"),
            *(
                kickback_process("measure", path)
                for path in (plain["arrays"], plain["csv"], filmed["csv"])
            ),
        ],
        21,
    )
    numpy = [1.5 * one + 0.1 for one in base]
    for name, own, aim in zip(
        ("as JSON Lines", "as CSV", "with a camera"), times, (1, 1, 1.3), strict=True
    ):
        ratio(f"measure, 1,200 frames {name} / (1.5 × import numpy + 0.1 s)", numpy, own,
              f"{aim} at most")  # fmt: skip


def long_take() -> None:
    path = files(FRAMES)
    base, table, parquet, arrays, objects, every = paired(
        [
            process(PYTHON, "-c", READ, str(path["csv"])),
            *(kickback_process("measure", path[name]) for name in path),
            kickback_process("measure", path["csv"], "--all"),
        ],
        5,
    )
    ratio(f"measure, CSV of {FRAMES:,} × 14 / only reading it", base, table, "2 at most")
    ratio("the same with details, camera and smoothness", base, every, "3 at most")
    ratio("measure, Parquet / CSV", table, parquet, "0.5 at most")
    ratio("measure, JSON Lines of arrays / CSV", table, arrays, "1.3 at most")
    ratio("measure, JSON Lines of objects / CSV", table, objects, "2.5 at most")


def growth() -> None:
    """Measure takes of more and more frames, and ones with a pause every few of them."""
    for frames in (1_000, 100_000):
        short, long = (files(many, filmed=False)["csv"] for many in (frames, 10 * frames))
        times = paired([kickback_process("measure", one) for one in (short, long)], 3)
        ratio(f"measure, a frame of {10 * frames:,} / of {frames:,}",
              [10 * one for one in times[0]], times[1], "1 at most")  # fmt: skip
    some, many = (files(FRAMES, filmed=False, pauses=count)["csv"] for count in (100, 10_000))
    times = paired([kickback_process("measure", one) for one in (some, many)], 3)
    ratio(f"measure, {FRAMES:,} frames with 10,000 pauses / with 100", *times, "say")


def laws() -> None:
    path = files(FRAMES, filmed=False)["csv"]
    times = paired([kickback_process(word, path) for word in ("measure", "law")], 5)
    ratio(f"law / measure, CSV of {FRAMES:,} × 12", *times, "1.2 at most")


def other_kinds() -> None:
    """Measure and read the laws of 20 to 60 seconds of a vehicle and of shots."""
    foot = kickback_process("measure", files(1200, filmed=False)["csv"])
    for kind in ("vehicle", "shot"):
        path = of_kind(kind)
        base, *times = paired(
            [foot, *(kickback_process(word, path) for word in ("measure", "law"))], 7
        )
        for word, own in zip(("measure", "law"), times, strict=True):
            ratio(f"{word} of a {kind} / measure of a character on foot", base, own, "say")


def frame_rates() -> None:
    """Ten takes of a minute at five rates: what looking for causes adds to measuring them."""
    path = minutes()
    times = paired(
        [kickback_process("measure", path, "--all"), kickback_process("framerate", path)], 5
    )
    ratio("framerate / measure --all, ten takes of a minute at five rates", *times, "1.2 at most")


def tuning() -> None:
    """Fit 20 seconds of play, and ask at three rates what its character clears."""
    path = files(1200, filmed=False)["csv"]
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "fitted.toml"
        kickback_process("fit", path, "-o", file)()
        base, fitted, reached = paired(
            [
                kickback_process("measure", path),
                kickback_process("fit", path),
                kickback_process("reach", file, "--rates", "30,60,144"),
            ],
            5,
        )
    ratio("fit, 1,200 frames / measure", base, fitted, "4 at most")
    ratio("reach at three rates / measure of 1,200 frames", base, reached, "4 at most")


def thousand_takes() -> None:
    """Measure a thousand takes on one core and on two."""
    path = thousand()
    times = paired(
        [
            process(KICKBACK, "measure", str(path), "--format", "csv", "--cores", n, wall=True)
            for n in "12"
        ],
        1,
    )
    ratio("measure, 1,000 takes of 1,200 frames on two cores / on one", *times, "0.55 at most")


def comparisons() -> None:
    """Hold a hundred takes against a hundred, the bootstrap included; gate the demo's takes."""
    a, b = (str(folder) for folder in sides(100))
    measured, compared = paired(
        [
            kickback_process("measure", a, b, "--all", "--cores", 1),
            kickback_process("compare", a, b, "--cores", 1),
        ],
        3,
    )
    ratio("compare, 100 takes with 100 / measure --all", measured, compared, "1.1 at most")
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
        "1.2 at most",
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
        "0.03 at most",
    )


def main() -> None:
    """Run all, or those named on the command line."""
    compileall.compile_dir(Path(kickback.__file__).parent, quiet=1)
    own = (
        start_up, ordinary_take, long_take, growth, laws, other_kinds, frame_rates, comparisons,
        tuning, thousand_takes, planes, many_sets,
    )  # fmt: skip
    known = {
        job.__name__: job for job in (*own, recorder.flat_out, recorder.steady, recorder.sender)
    }
    for name in sys.argv[1:] or known:
        known[name]()


if __name__ == "__main__":
    main()

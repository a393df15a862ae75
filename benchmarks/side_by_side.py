"""Runs commands in turn, A B A B …, and reports medians and the ratio pair by pair."""

import os
import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Sequence
from pathlib import Path

PYTHON = sys.executable
KICKBACK = str(Path(sys.executable).with_name("kickback"))


def process(*command: str) -> Callable[[], float]:
    """Return a function that runs a process and gives its wall time, s."""

    def run() -> float:
        begin = time.perf_counter()
        subprocess.run(command, stdout=subprocess.DEVNULL, check=True, env=dict(os.environ))
        return time.perf_counter() - begin

    return run


def paired(runs: Sequence[Callable[[], float]], times: int) -> list[list[float]]:
    """Return each function's times; they take turns, after one round that does not count."""
    for run in runs:
        run()
    rounds = [[run() for run in runs] for _ in range(times)]
    return [list(column) for column in zip(*rounds, strict=True)]


def report(name: str, ratios: Sequence[float], aim: str) -> None:
    """Print a ratio's median and range beside its aim."""
    middle = statistics.median(ratios)
    print(f"{name:<66} {middle:6.3g}  ({min(ratios):.3g} to {max(ratios):.3g})   aim {aim}")

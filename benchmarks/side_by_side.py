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


def process(*command: str, wall: bool = False) -> Callable[[], float]:
    """Return a function that runs a process and gives what it costs: CPU, or ``wall`` time, s.

    CPU time is that of all of its threads; other work on the machine moves it least.
    """

    def run() -> float:
        begin, before = time.perf_counter(), os.times()
        subprocess.run(
            command,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            check=True,
            env=dict(os.environ),
        )
        if wall:
            return time.perf_counter() - begin
        after = os.times()
        return (after.children_user - before.children_user) + (
            after.children_system - before.children_system
        )

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
    print(f"{name:<70} {middle:6.3g}  ({min(ratios):.3g} to {max(ratios):.3g})   aim {aim}")
    sys.stdout.flush()

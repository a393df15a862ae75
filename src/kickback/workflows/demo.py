"""``demo``: the Lantern Row project on disk, and the steps of the walk through it."""

import shlex
import tomllib
from collections.abc import Sequence
from importlib import resources
from pathlib import Path

from kickback.errors import UsageError, nearest
from kickback.files.atomic import write_new
from kickback.project.parameter_sets import read_drill
from kickback.takes.record import Record, replace
from kickback.takes.take import Take
from kickback.workflows.demo_logs import LOG_MAPPING, console_log, foreign_log
from kickback.workflows.simulating import simulate_takes, write_takes

__all__ = ["Step", "Walk", "walk_named", "walks", "write_demo"]

_SOURCE = resources.files("kickback.workflows") / "lantern_row"
"""The project as it is written, and the walks through it."""


class Step(Record, frozen=True, kw_only=True):
    """One step: what it shows, and the command's arguments."""

    title: str
    text: str
    arguments: Sequence[str]


class Walk(Record, frozen=True, kw_only=True):
    """A walk through a topic: its name, what it is about, and its steps."""

    name: str
    about: str
    steps: Sequence[Step]


def walks() -> list[Walk]:
    """Return the walks, the usual one first."""
    data = tomllib.loads((_SOURCE / "walks.toml").read_text(encoding="utf-8"))
    return [
        Walk(
            name=walk["name"],
            about=walk["about"],
            steps=[
                Step(
                    title=step["title"],
                    text=step["text"],
                    arguments=shlex.split(step["command"]),
                )
                for step in walk["step"]
            ],
        )
        for walk in data["walk"]
    ]


def walk_named(name: str) -> Walk:
    """Return a walk; raises UsageError naming the nearest where there is none."""
    known = {walk.name: walk for walk in walks()}
    if name not in known:
        raise UsageError(f"no walk '{name}'{nearest(name, known)}")
    return known[name]


def _courtyard(folder: Path) -> list[Take]:
    """Write the takes over a plane; in the one from above the input is not shortened."""
    takes = []
    for name, drill, mistakes in (
        ("brisk-3d", "courtyard", ()),
        ("brisk-above", "courtyard-above", ("diagonal-faster",)),
    ):
        played = read_drill(folder / "drills" / f"{drill}.toml")
        own = simulate_takes(
            [str(folder / "params" / "brisk.toml")], played, rates=(60.0,), mistakes=mistakes
        )
        takes += [replace(take, name=name) for take in own]
    write_takes(takes, folder / "courtyard", encoding="jsonl", force=True)
    return takes


def _sleds_and_flares(folder: Path) -> list[Take]:
    """Write the takes of the salt sled, over the flats and the dunes, and of the flare."""
    takes = []
    for place, drill, name, rates in (
        ("flats", "flats", "sled", (60.0,)),
        ("flats", "flats", "sled-waxed", (60.0,)),
        ("dunes", "dunes", "sled", (60.0,)),
        ("dunes", "dunes", "sled-slipup", (30.0, 60.0, 144.0)),
        ("flares", "lob", "flare", (60.0,)),
        ("flares", "lob", "flare-slipup", (30.0, 60.0, 144.0)),
    ):
        file = str(folder / "params" / f"{name}.toml")
        own = simulate_takes([file], read_drill(Path(drill)), rates=rates)
        write_takes(own, folder / place, encoding="jsonl", force=True)
        takes += own
    return takes


def write_demo(folder: Path) -> int:
    """Write the demo project; returns the number of takes.

    Files of the project that exist are kept, so that a changed parameter shows in the
    takes, which are made anew.
    """
    for part in ("kickback.toml", "params", "drills", "builds", "levels"):
        item = _SOURCE / part
        for file in [item] if item.is_file() else list(item.iterdir()):
            target = folder / (part if item.is_file() else f"{part}/{file.name}")
            if not target.exists():
                write_new(target, file.read_bytes())
    drill = read_drill(folder / "drills" / "rooftop-basics.toml")
    takes: list[Take] = []
    for name, rates in (
        ("brisk", (30.0, 60.0, 144.0)),
        ("brisk-slipup", (30.0, 60.0, 144.0)),
        ("floaty", (60.0,)),
        ("heavy", (60.0,)),
    ):
        takes += simulate_takes([str(folder / "params" / f"{name}.toml")], drill, rates=rates)
    write_takes(takes, folder / "takes", encoding="jsonl", force=True)
    for build in ("nudged", "overdone"):
        file = folder / "builds" / f"{build}.toml"
        own = simulate_takes([str(file)], drill, rates=(30.0, 60.0, 144.0))
        write_takes(own, folder / "builds" / build, encoding="jsonl", force=True)
        takes += own
    takes += _courtyard(folder)
    takes += _sleds_and_flares(folder)
    filmed = simulate_takes(
        [str(folder / "params" / "filmed.toml")], drill, rates=(60.0,), jitter=0.1, seed=4
    )
    write_takes(filmed, folder / "filmed", encoding="jsonl", force=True)
    takes += filmed
    write_new(folder / "logs" / "roof-run.csv", foreign_log(takes[1]), replace=True)
    write_new(folder / "logs" / "console.log", console_log(takes[1]), replace=True)
    mapping = folder / "logs" / "roof-run.map.toml"
    if not mapping.exists():
        write_new(mapping, LOG_MAPPING.encode())
    (folder / "figures").mkdir(exist_ok=True)
    return len(takes)

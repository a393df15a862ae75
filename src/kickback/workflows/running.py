"""Running the game itself: every rate, parameter set and repeat, one after another or several."""

import os
import re
import shlex
import signal
import sys
import tempfile
import time
from collections import deque
from collections.abc import Callable, Generator, Sequence
from pathlib import Path
from typing import IO, TypeAlias, TypeVar

from kickback.errors import UsageError, close_to, nearest
from kickback.files.names import safe_name
from kickback.project.parameter_sets import read_parameter_set
from kickback.record.hub import Hub
from kickback.record.ledger import Finished
from kickback.record.pipe import PipeSource
from kickback.record.placeholders import PLACEHOLDERS, filled
from kickback.takes.plain import PlainDict, PlainMap
from kickback.takes.record import Record
from kickback.workflows.game import Game, adopt_orphans

__all__ = ["RunPlan", "RunResult", "Station", "count_runs", "run_all", "words_of"]

T = TypeVar("T")

Rounds: TypeAlias = Generator[None, None, T]
"""Something that goes on in rounds, others between them, and comes to a result."""

_GRACE = 2.0
"""Seconds that a game may go on after its take, or takes to end."""


class RunPlan(Record, frozen=True, kw_only=True):
    """How to run the game.

    ``command`` is split as a shell would and may hold ``{address}``, ``{tcp}``, ``{udp}``,
    ``{ws}``, ``{rate}``, ``{parameters}``, ``{drill}``, ``{repeat}`` and ``{name}``. With
    ``piped`` the game's standard output is what is recorded. ``timeout`` is for each run, s.
    ``at_once``: how many runs go on side by side.
    """

    command: str
    rates: Sequence[float] = ()
    parameters: Sequence[str] = ()
    repeats: int = 1
    timeout: float = 60.0
    drill_file: str = ""
    drill_name: str = ""
    token: str = ""
    piped: bool = False
    at_once: int = 1


class RunResult(Record, frozen=True, kw_only=True):
    """One run: its name, its takes, and what went wrong, "" where nothing did."""

    name: str
    takes: Sequence[Finished]
    problem: str


class _Run(Record, frozen=True, kw_only=True):
    name: str
    rate: float | None
    parameters: str
    repeat: int
    header: PlainMap


class Station(Record, frozen=True, kw_only=True):
    """Where one run at a time is received: its ``hub``, and what lets that go round once."""

    hub: Hub
    pump: Callable[[], list[Finished]]


def run_all(
    plan: RunPlan, stations: Sequence[Station], report: Callable[[RunResult], None]
) -> None:
    """Run the game for every rate, parameter set and repeat; a run that fails ends no other.

    As many go on at once as there are ``stations``. ``report`` hears of each run as it ends, so
    that whoever interrupts knows of those before. Raises UsageError for a command that cannot be
    split, InputError for a parameter file that is none.
    """
    words = words_of(plan)
    adopt_orphans()
    waiting, free = deque(_runs(plan)), deque(stations)
    under_way: list[tuple[Station, Rounds[RunResult]]] = []
    try:
        while waiting or under_way:
            while waiting and free:
                station = free.popleft()
                under_way.append((station, _one(plan, waiting.popleft(), words, station)))
            for station, rounds in list(under_way):
                try:
                    next(rounds)
                except StopIteration as over:
                    under_way.remove((station, rounds))
                    free.append(station)
                    report(over.value)
    finally:
        for _, rounds in under_way:
            rounds.close()  # which ends its game


def count_runs(plan: RunPlan) -> int:
    """Return how many runs a plan asks for."""
    return len(plan.parameters or " ") * len(plan.rates or " ") * plan.repeats


def words_of(plan: RunPlan) -> list[str]:
    """Return the words of a plan's command; raises UsageError where it makes no sense."""
    _check(plan)
    try:
        words = shlex.split(plan.command)
    except ValueError as error:
        raise UsageError(f"--run: the command cannot be split ({error})") from error
    if not words:
        raise UsageError("--run: the command is empty")
    if words[0] == "kickback":  # this very program, wherever it is installed
        words = [sys.executable, "-m", "kickback", *words[1:]]
    return words


def _check(plan: RunPlan) -> None:
    """Raise UsageError where a placeholder has nothing to stand for, or is none."""
    if "{token}" in plan.command:
        raise UsageError("--run: other users can read a command; the token is in KICKBACK_TOKEN")
    for word in re.findall(r"\{([a-z_]+)\}", plan.command):
        # a shell's script has braces of its own: only what is nearly one of ours is misspelt
        if word not in PLACEHOLDERS and close_to(word, list(PLACEHOLDERS)):
            hint = nearest(word, PLACEHOLDERS)
            raise UsageError(f"--run: nothing to put in for {{{word}}}{hint}")
    for key, given in (
        ("rate", plan.rates),
        ("parameters", plan.parameters),
        ("drill", plan.drill_file),
    ):
        if "{" + key + "}" in plan.command and not given:
            raise UsageError(f"--run: the command has {{{key}}}, but no --{key} is given")


def _runs(plan: RunPlan) -> list[_Run]:
    found = []
    for file in plan.parameters or ("",):
        header: PlainDict = {}
        if file:
            header["parameters"] = read_parameter_set(Path(file)).to_mapping()
        if plan.drill_name:
            header["drill"] = plan.drill_name
        for rate in plan.rates or (None,):
            for repeat in range(1, plan.repeats + 1):
                name = header["parameters"]["name"] if file else "run"
                name += f"-{rate:g}" if rate is not None else ""
                name += f"-{repeat}" if plan.repeats > 1 else ""
                full = header | ({"frame_rate": rate} if rate is not None else {})
                found.append(
                    _Run(name=name, rate=rate, parameters=file, repeat=repeat, header=full)
                )
    return found


def _one(plan: RunPlan, run: _Run, words: Sequence[str], station: Station) -> Rounds[RunResult]:
    """Run the game once, round by round; its takes get the run's name."""
    hub = station.hub
    named = bool(plan.parameters or plan.rates or plan.repeats > 1)
    hub.ledger.stem = safe_name(run.name) if named else ""
    hub.ledger.defaults = run.header
    station.pump()
    values = _placeholders(plan, run, hub)
    argv = filled(words, values)
    told = {**values, "token": plan.token}  # a command line can be read by other users
    env = {**os.environ, **{f"KICKBACK_{key.upper()}": value for key, value in told.items()}}
    with tempfile.TemporaryFile() as output:
        try:
            game = Game(argv, env, output, piped=plan.piped)
        except OSError as error:
            reason = f"'{argv[0]}' cannot be started ({error.strerror})"
            return RunResult(name=run.name, takes=(), problem=reason)
        try:
            takes, problem = yield from _attend(plan, game, station)
        finally:
            game.stop()
        if not problem and game.status not in {0, -signal.SIGTERM, None}:
            problem = f"the game failed with status {game.status}{_last_words(output)}"
    if not problem and not takes:
        problem = "the game sent no frame"
    return RunResult(name=run.name, takes=takes, problem=problem)


def _attend(plan: RunPlan, game: Game, station: Station) -> Rounds[tuple[list[Finished], str]]:
    """Receive what a game sends until it has ended, has nothing more to send, or hangs."""
    takes: list[Finished] = []
    hub = station.hub
    piped = game.stdout if plan.piped else None
    if piped is not None:
        hub.add(PipeSource(piped.fileno(), "the game's output"))
    problem = yield from _received(plan, game, station, takes)
    game.stop()
    for stream in list(hub.streams):
        hub.end(stream, "the end of the run")
    takes += station.pump()
    if piped is not None:
        if hub.sources and isinstance(hub.sources[-1], PipeSource):
            hub.sources.pop()
        piped.close()
    return takes, problem


def _received(plan: RunPlan, game: Game, station: Station, takes: list[Finished]) -> Rounds[str]:
    """Take in a game's takes until it is done; what is wrong with it, or nothing."""
    hub = station.hub
    began = time.monotonic()
    quiet_since = None
    while True:
        yield
        # before the round: what it hears is no silence, and what a game writes as it ends is read
        now, ended = time.monotonic(), not game.running
        takes += station.pump()
        busy = any(s.session.open_takes for s in hub.streams)
        if ended and not _still_sending(hub, now, busy=busy):
            return ""
        if now - began > plan.timeout:
            return f"the game was ended after {plan.timeout:g} s (--timeout)"
        # a game that has sent its take and goes on running for nothing is done as well
        quiet_since = None if busy or not takes else quiet_since or now
        if quiet_since is not None and now - quiet_since > max(_GRACE, hub.ledger.gap):
            return ""


def _still_sending(hub: Hub, now: float, *, busy: bool) -> bool:
    """Whether something of a game that has ended may still be on its way."""
    heard = [stream.heard for stream in hub.streams]
    return bool(heard) and now - max(heard) < (0.5 if busy else 0.2)


def _placeholders(plan: RunPlan, run: _Run, hub: Hub) -> dict[str, str]:
    addresses = {source.address.partition(":")[0]: source.address for source in hub.sources}
    first = hub.sources[0].address if hub.sources else ""
    return {
        "address": first,
        **{scheme: addresses.get(scheme, "") for scheme in ("tcp", "udp", "ws")},
        "rate": "" if run.rate is None else f"{run.rate:g}",
        "parameters": run.parameters,
        "drill": plan.drill_file,
        "repeat": str(run.repeat),
        "name": safe_name(run.name),
    }


def _last_words(output: IO[bytes]) -> str:
    """Return the last line that a game printed, for a message."""
    output.seek(0, os.SEEK_END)
    output.seek(max(0, output.tell() - 4096))
    lines = output.read().decode(errors="replace").split("\n")
    said = [line.strip() for line in lines if line.strip()]
    return f": {said[-1][:200]}" if said else ""

"""``simulate --send``: the built-in model as a stand-in for a game that is being recorded."""

import time
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from kickback.errors import InputError, UsageError
from kickback.kinds.models import drill_of
from kickback.kinds.playing.drills import Drill
from kickback.record.sender import Recorder, Transport
from kickback.takes.record import Record
from kickback.takes.take import Take

__all__ = ["SentTake", "send_takes"]

_PATIENCE = 5.0
"""Seconds to wait for a recorder."""

_ANSWER = 2.0
"""Seconds to wait for the drill that it names."""


class SentTake(Record, frozen=True, kw_only=True):
    """A take that was played to a recorder; ``by_request``: the drill was the recorder's."""

    name: str
    frames: int
    dropped: int
    by_request: bool


def send_takes(
    address: str,
    play: Callable[[Drill | None], Sequence[Take]],
    *,
    drill: Drill | None,
    fast: bool = False,
    token: str = "",
) -> list[SentTake]:
    """Play takes to a recorder, in real time or as fast as it takes them.

    ``play`` makes the takes of a drill. Without a drill of the caller's own the recorder
    may name one. Raises UsageError for an address that is none, InputError where no
    recorder answers at it.
    """
    if not address.startswith(("tcp://", "udp://", "ws://")):
        raise UsageError(f"--send: '{address}' is no address such as tcp://127.0.0.1:7425")
    asks = drill is None and not address.startswith("udp")
    sent = []
    wanted = None
    for index in range(len(play(drill))):
        take = play(wanted or drill)[index]
        recorder = _recorder(address, take, fast=fast, token=token, asks=asks)
        answer = recorder.drill(_ANSWER) if asks else None
        if answer is not None:
            wanted = drill_of(answer, f"the drill of {address}")
            take = play(wanted)[index]
        recorder.begin(drill=take.header.drill)
        _play(recorder, take, _own_columns(take), fast=fast)
        recorder.close(timeout=30.0)
        if recorder.problem:
            raise InputError(recorder.problem, address)
        sent.append(
            SentTake(
                name=take.name,
                frames=len(take) - recorder.dropped,
                dropped=recorder.dropped,
                by_request=wanted is not None,
            )
        )
    return sent


def _own_columns(take: Take) -> list[str]:
    """Return the columns of a take that a game would send."""
    return [name for name in take.columns if name not in take.derived]


def _recorder(address: str, take: Take, *, fast: bool, token: str, asks: bool) -> Recorder:
    """Return a sender that is connected; raises InputError where no recorder answers."""
    header = take.header.to_mapping()
    try:
        recorder = Recorder(
            _way_to(address),
            _own_columns(take),
            wait=fast,
            token=token,
            accepts_drill=asks,
            **{k: v for k, v in header.items() if k not in {"kickback", "drill"}},
        )
    except (ValueError, FileExistsError) as error:
        raise InputError(str(error), "--send") from error
    _wait_until_connected(recorder, address)
    return recorder


def _way_to(address: str) -> "str | Transport":
    if not address.startswith("ws://"):
        return address
    from kickback.record.websocket_sender import WebSocketTransport

    return WebSocketTransport(address)


def _wait_until_connected(recorder: Recorder, address: str) -> None:
    patience = time.monotonic() + _PATIENCE
    while not recorder.connected:
        if time.monotonic() > patience:
            problem = recorder.problem
            recorder.close(0.1)
            raise InputError(f"no recorder answers there ({problem})", address)
        time.sleep(0.005)


def _play(recorder: Recorder, take: Take, names: Sequence[str], *, fast: bool) -> None:
    """Give frames to a recorder, each when its update would end."""
    columns = [np.asarray(take.columns[name]) for name in names]
    rows: Any = zip(*(column.tolist() for column in columns), strict=True)
    times = take.numbers("t").tolist()
    began = time.perf_counter()
    for row, due in zip(rows, times, strict=True):
        if not fast:
            ahead = due - (time.perf_counter() - began)
            if ahead > 0:
                time.sleep(ahead)
        recorder.frame(*row)

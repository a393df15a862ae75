"""Hostile sessions, files, headers and settings: none may end in anything but a sentence.

``python tools/fuzz.py [COUNT [SEED]]`` makes so many inputs, each from its own seed, so that
one that goes wrong can be made again: it is printed as ``kind seed``. With ``guided SECONDS
[KIND]`` the package atheris, where it is installed, looks for inputs that reach new lines.
"""

import contextlib
import gzip
import io
import json
import random
import signal
import sys
import tempfile
import time
import traceback
import warnings
from collections import Counter
from collections.abc import Callable
from pathlib import Path

from kickback.errors import KickbackError
from kickback.files.mapping import parse_mapping
from kickback.files.options import ReadOptions
from kickback.files.read import take_from_bytes
from kickback.files.write import encode_take
from kickback.kinds.examining import examine
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.measuring import measure
from kickback.project.parameter_sets import read_drill, read_model_parameters
from kickback.project.settings import read_settings
from kickback.record.hub import Hub
from kickback.record.ledger import Ledger
from kickback.record.limits import Limits
from kickback.record.session import Session
from kickback.takes.header import Header

__all__ = ["KINDS", "attempt"]

LONGEST = 10
"""Seconds that nothing may take."""

_ATOMS = (
    0,
    1,
    -1,
    0.5,
    1e-7,
    1e300,
    -1e300,
    5e-324,
    10**30,
    10**400,
    True,
    False,
    None,
    "",
    "t",
    "x",
    "nan",
    "inf",
    "-",
    "=1",
    "\x1b[2J",
    "\u202e",
    "../../x",
    "{name}",
    "$(x)",
    [],
    {},
    [[]],
    {"a": {}},
)
_KEYS = (
    "kickback",
    "end",
    "sent",
    "dropped",
    "take",
    "subject",
    "columns",
    "t",
    "dt",
    "x",
    "y",
    "z",
    "vx",
    "vy",
    "view",
    "up",
    "length_unit",
    "frame_rate",
    "parameters",
    "name",
    "values",
    "drill",
    "probe",
    "kind",
    "hand",
    "notes",
    "mapping",
    "header",
    "rows",
    "from",
    "scale",
    "offset",
    "per_frame",
    "token",
    "accepts",
    "state",
    "event",
    "in_move_x",
    "in_jump",
    "touch_ground",
    "limits",
    "budgets",
    "targets",
    "units",
    "tile",
    "reference_rate",
    "file_name",
    "length",
    "input",
    "at",
    "until",
    "floor",
    "height",
    "jump",
    "move_x",
)
_BYTES = (
    b"\0",
    b"\n",
    b"\r\n",
    b"\xff",
    b"\xef\xbb\xbf",
    b'"',
    b"{",
    b"}",
    b"[",
    b"]",
    b",",
    b"#",
    b";",
    b"\x1b",
    b"e400",
    b"9" * 400,
    b"NaN",
    b"POST / HTTP/1.1\r\n",
    b'{"end": true}\n',
    b'{"kickback": 1}\n',
)


def value(chance: random.Random, depth: int = 3) -> object:
    """Return a value that JSON and TOML can hold, or nearly."""
    draw = chance.random()
    if depth and draw < 0.15:
        return [value(chance, depth - 1) for _ in range(chance.randrange(5))]
    if depth and draw < 0.3:
        return {chance.choice(_KEYS): value(chance, depth - 1) for _ in range(chance.randrange(5))}
    if draw < 0.5:
        return chance.uniform(-100, 100)
    return chance.choice(_ATOMS)


def mutated(data: bytes, chance: random.Random) -> bytes:
    """Return bytes with a few changes."""
    parts = bytearray(data)
    for _ in range(chance.choice((0, 1, 1, 2, 5, 20))):
        at = chance.randrange(len(parts) + 1)
        stop = min(len(parts), at + chance.choice((0, 1, 1, 8, 100)))
        new = chance.choice((chance.choice(_BYTES), chance.randbytes(chance.randrange(1, 6)), b""))
        parts[at:stop] = new
    return bytes(parts)


def _line(chance: random.Random, names: list[str]) -> object:
    draw = chance.random()
    if draw < 0.7:
        return [chance.uniform(0, 9) if chance.random() < 0.97 else value(chance) for _ in names]
    if draw < 0.85:
        return {name: value(chance, 1) for name in names}
    return {chance.choice(_KEYS): value(chance) for _ in range(chance.randrange(6))}


def stream(chance: random.Random) -> bytes:
    """Return the lines of a sender that is not well."""
    names = chance.sample(_KEYS, chance.randrange(1, 6))
    names = ["t", "x", "y"] if chance.random() < 0.7 else names
    head = {"kickback": 1, "columns": names}
    if chance.random() < 0.5:
        head |= {chance.choice(_KEYS): value(chance) for _ in range(3)}
    lines = [head, *(_line(chance, names) for _ in range(chance.randrange(30)))]
    clock = 0.0
    for line in lines[1:]:
        if isinstance(line, list) and line and chance.random() < 0.9:
            clock += chance.choice((1 / 60, 1 / 60, 16.7, 5.0, -1.0, 0.0))
            line[0] = clock
    text = b"".join(json.dumps(line).encode() + b"\n" for line in lines)
    return mutated(text, chance) if chance.random() < 0.6 else text


def session(chance: random.Random, folder: Path) -> None:
    """Feed a session in pieces, and end it."""
    token = chance.choice((None, None, "wick"))
    ledger = Ledger(folder=folder, limits=Limits(line=2000, columns=20, frames=50, disk=100_000))
    one = Session(
        "fuzz",
        ledger,
        token,
        datagrams=chance.random() < 0.4,
        enter=chance.choice((None, str, lambda: "full")),
    )
    data = stream(chance)
    if token and chance.random() < 0.7:
        data = b'{"kickback": 1, "token": "wick", "columns": ["t", "x", "y"]}\n' + data
    size = chance.choice((1, 7, 100, 10_000))
    for at in range(0, len(data), size):
        (one.feed_datagram if one.datagrams else one.feed)(data[at : at + size])
    one.flush()
    one.end()
    hub = Hub(ledger)
    hub.close("the end")


_TAKE = simulate(frame_rate=20)


def file(chance: random.Random, folder: Path) -> None:
    """Read, look at and measure a take's file that something has been at."""
    del folder
    encoding = chance.choice(("csv", "csv", "jsonl", "jsonl", "parquet"))
    data = encode_take(_TAKE, encoding) if chance.random() < 0.6 else stream(chance)
    data = mutated(data, chance)
    if chance.random() < 0.1:
        data = mutated(gzip.compress(data), chance)
    take = take_from_bytes(
        data, f"take.{encoding}", None, ReadOptions(any_clock=chance.random() < 0.3)
    )
    examine(take)
    measure(take)


def header(chance: random.Random, folder: Path) -> None:
    """Check a header and a mapping of anything."""
    del folder
    data = {chance.choice(_KEYS): value(chance) for _ in range(chance.randrange(9))}
    try:
        Header.from_mapping(data, "fuzz").to_mapping()
    except KickbackError:
        parse_mapping(data, "fuzz")


def _toml(chance: random.Random) -> bytes:
    text = io.StringIO()
    for _ in range(chance.randrange(1, 9)):
        if chance.random() < 0.3:
            text.write(f"[{'[' * (chance.random() < 0.3)}{chance.choice(_KEYS)}]\n")
        text.write(f"{chance.choice(_KEYS)} = {json.dumps(value(chance))}\n")
    return mutated(text.getvalue().encode().replace(b"null", b'""'), chance)


def toml(chance: random.Random, folder: Path) -> None:
    """Read a settings file, a parameter set or a drill of anything."""
    path = folder / "a.toml"
    path.write_bytes(_toml(chance))
    chance.choice((read_settings, read_model_parameters, read_drill))(path)


Attempt = Callable[[random.Random, Path], None]
KINDS: dict[str, Attempt] = {"session": session, "file": file, "header": header, "toml": toml}
"""What is tried, by name."""


def _too_long(*_: object) -> None:
    raise TimeoutError(f"longer than {LONGEST} s")


def attempt(kind: str, seed: int, folder: Path) -> str:
    """Try one input; what went wrong, or nothing."""
    before = signal.signal(signal.SIGALRM, _too_long)
    signal.alarm(LONGEST)
    try:
        KINDS[kind](random.Random(f"{kind} {seed}"), folder)
    except KickbackError as error:
        return "" if str(error) else "an error without a sentence"
    except Exception:
        return traceback.format_exc()
    finally:
        signal.alarm(0)
        signal.signal(signal.SIGALRM, before)
    return ""


def _clear(folder: Path) -> None:
    for path in folder.iterdir():
        path.unlink()


def main(count: int = 1_000_000, seed: int = 0) -> int:
    """Try so many inputs; the exit status is 1 where one went wrong."""
    warnings.simplefilter("ignore")
    wrong: Counter[str] = Counter()
    began = time.monotonic()
    # sessions, headers and settings are quick; a file is measured
    kinds = ["session"] * 4 + ["header"] * 4 + ["toml"] * 2 + ["file"] * 2
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for number in range(count):
            kind = kinds[number % len(kinds)]
            problem = attempt(kind, seed + number, folder)
            last = problem.strip().rpartition("File ")[2]
            if problem and not wrong[last]:
                print(f"{kind} {seed + number}\n{problem}", flush=True)
            if problem:
                wrong[last] += 1
            if number % 100 == 0:
                _clear(folder)
    print(f"{count:,} inputs in {time.monotonic() - began:.0f} s: {wrong.total()} went wrong")
    return 1 if wrong else 0


class _Given(random.Random):
    """Chance that bytes decide, so that a fuzzer can steer it."""

    def __init__(self, data: bytes) -> None:
        self._data = io.BytesIO(data)
        super().__init__(0)

    def random(self) -> float:
        return int.from_bytes(self._data.read(2), "big") / 65536

    def getrandbits(self, k: int) -> int:
        return int.from_bytes(self._data.read((k + 7) // 8), "big") >> (-k % 8)


def guided(seconds: int, kind: str = "file") -> None:
    """Let atheris look for inputs that reach new lines, for so many seconds."""
    import atheris

    atheris.instrument_all()
    folder = Path(tempfile.mkdtemp())

    def one(data: bytes) -> None:
        with contextlib.suppress(KickbackError):
            KINDS[kind](_Given(data), folder)
        _clear(folder)

    atheris.Setup([sys.argv[0], f"-max_total_time={seconds}", "-timeout=10"], one)
    atheris.Fuzz()


if __name__ == "__main__":
    if sys.argv[1:2] == ["guided"]:
        guided(int(sys.argv[2]), *sys.argv[3:4])
    elif len(sys.argv) == 3 and sys.argv[1] in KINDS:
        with tempfile.TemporaryDirectory() as place:
            print(attempt(sys.argv[1], int(sys.argv[2]), Path(place)) or "nothing went wrong")
    else:
        sys.exit(main(*map(int, sys.argv[1:])))

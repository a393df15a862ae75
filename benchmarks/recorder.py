"""What recording costs: flat out beside a plain copy, at a steady rate, and in the game's frame."""

import os
import re
import socket
import statistics
import subprocess
import tempfile
import time
from collections.abc import Callable
from contextlib import ExitStack
from functools import partial
from pathlib import Path

import msgspec
from websockets.sync.client import connect

from benchmarks.data import HEADER, NAMES, columns
from benchmarks.side_by_side import KICKBACK, PYTHON, paired, report
from kickback.record.sender import Recorder

COPY = """
import socket, sys
with socket.create_server(("127.0.0.1", 0)) as server, open(sys.argv[1], "wb") as file:
    print(f"tcp://127.0.0.1:{server.getsockname()[1]}", file=sys.stderr, flush=True)
    sock, _ = server.accept()
    while data := sock.recv(1 << 18):
        file.write(data)
"""
FLAT_OUT = 1_000_000
SECONDS = 60


def _lines(frames: int) -> tuple[bytes, list[bytes]]:
    """Return a header line and a line a frame of 14 columns."""
    table = columns(frames)
    rows = [list(row) for row in zip(*(table[name].tolist() for name in NAMES), strict=True)]
    encode = msgspec.json.Encoder().encode
    head = encode({**HEADER, "columns": NAMES}) + b"\n"
    return head, [encode(row) + b"\n" for row in rows]


class _Receiver:
    """A process that receives, and what it used when it has ended."""

    def __init__(self, *command: str, folder: str) -> None:
        self.process = subprocess.Popen(
            command,
            cwd=folder,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
        )
        said = self.process.stderr.readline().decode()
        self.port = int(re.search(r":(\d+)\s*$", said)[1])

    def end(self) -> str:
        out, _ = self.process.communicate(timeout=300)
        return out.decode()


def _timed(command: tuple[str, ...], data: list[bytes]) -> float:
    with tempfile.TemporaryDirectory() as folder:
        receiver = _Receiver(*command, folder=folder)
        begin = time.perf_counter()
        with socket.create_connection(("127.0.0.1", receiver.port)) as sock:
            for part in data:
                sock.sendall(part)
            sock.shutdown(socket.SHUT_WR)
            sock.recv(1)  # the other side hangs up when it has taken everything
        took = time.perf_counter() - begin
        receiver.process.kill()  # what it would do with the take afterwards is not receiving
        receiver.process.communicate()
    return took


def flat_out() -> None:
    head, lines = _lines(FLAT_OUT)
    whole = head + b"".join(lines)
    parts = [whole[at : at + (1 << 16)] for at in range(0, len(whole), 1 << 16)]
    copy, record = paired(
        [
            lambda: _timed((PYTHON, "-c", COPY, "copy.bin"), parts),
            lambda: _timed((KICKBACK, "record", "tcp:0", "--quiet"), parts),
        ],
        5,
    )
    report(
        f"record, {FLAT_OUT:,} frames × 14 over TCP / a copy from socket to file",
        [b / a for a, b in zip(copy, record, strict=True)],
        "none set",
    )
    rate = FLAT_OUT / statistics.median(record)
    print(f"    {rate:,.0f} frames/s flat out in this run (aim 400,000)")


def steady() -> None:
    _steady("TCP", 10_000, "tcp:0", "6 % at most")
    _steady("WebSocket", 2_000, "ws:0", "none set")
    _steady("UDP", 10_000, "udp:0", "none set")


def _steady(name: str, rate: int, source: str, aim: str) -> None:
    """Send for a minute, a batch every 5 ms, and report the receiver's processor share."""
    head, lines = _lines(rate * SECONDS)
    with tempfile.TemporaryDirectory() as folder:
        receiver = _Receiver(KICKBACK, "record", source, "--quiet", "--takes", "1", folder=folder)
        place = ("127.0.0.1", receiver.port)
        before = _processor_seconds(receiver.process.pid)
        with ExitStack() as stack:
            if name == "WebSocket":
                page = stack.enter_context(connect(f"ws://127.0.0.1:{place[1]}", compression=None))
                page.send(head, text=True)
                _pace(lambda part, _: [page.send(line, text=True) for line in part], lines, rate)
            elif name == "TCP":
                sock = stack.enter_context(socket.create_connection(place))
                sock.sendall(head)
                _pace(lambda part, _: sock.sendall(b"".join(part)), lines, rate)
            else:
                sock = stack.enter_context(socket.socket(socket.AF_INET, socket.SOCK_DGRAM))
                sock.connect(place)
                sock.send(b'{"take":"a",' + head[1:])
                _pace(partial(_datagrams, sock), lines, rate)
                sock.send(b'{"end":true,"take":"a","sent":%d}' % len(lines))
            time.sleep(0.5)
            used = _processor_seconds(receiver.process.pid) - before
        out = receiver.end()
    saved = int(re.search(r"(\d+) frames", out)[1])
    counted = re.search(r"(\d+) lost", out)
    missing = len(lines) - saved
    told = f", of which {counted[1] if counted else 0} counted as lost" if name == "UDP" else ""
    print(
        f"record, {rate:,} frames/s × 14 over {name} for {SECONDS} s: {missing} of {len(lines):,}"
        f" missing{told}; {used / SECONDS:.1%} of one core   aim {aim}"
    )


def _pace(send: Callable[[list[bytes], int], object], lines: list[bytes], rate: int) -> None:
    """Send a batch every 5 ms; ``send`` gets the lines and how many went before."""
    batch = rate // 200
    began = time.perf_counter()
    for step, first in enumerate(range(0, len(lines), batch), 1):
        send(lines[first : first + batch], first)
        ahead = began + step / 200 - time.perf_counter()
        if ahead > 0:
            time.sleep(ahead)


def _datagrams(sock: socket.socket, part: list[bytes], before: int) -> None:
    for at in range(0, len(part), 10):
        mark = b'{"take":"a","sent":%d}\n' % (before + at)
        sock.send(mark + b"".join(part[at : at + 10]))


def _processor_seconds(pid: int) -> float:
    """Return what a process has used so far (of Linux, as far as known here)."""
    fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


def sender() -> None:
    """Time the Python sender's call in the game's frame beside a call of an empty function."""
    values = tuple(float(n) for n in range(14))

    def empty(*_: float) -> bool:
        return True

    def timed(call: Callable[..., object]) -> float:
        count, took = 20_000, 0.0
        for _ in range(20):
            begin = time.perf_counter()
            for _ in range(count // 20):
                call(*values)
            took += time.perf_counter() - begin
            time.sleep(0.03)  # the sending thread's own time is not the game's
        return 1e6 * took / count

    with tempfile.TemporaryDirectory() as folder:
        take = Recorder(Path(folder) / "take.jsonl", NAMES, room=10**6)
        nothing, frame = paired([lambda: timed(empty), lambda: timed(take.frame)], 9)
        take.close()
    report(
        "Python sender, a frame of 14 / an empty function",
        [b / a for a, b in zip(nothing, frame, strict=True)],
        "none set",
    )
    print(
        f"    {statistics.median(frame):.2f} µs a frame,"
        f" {statistics.median(nothing):.2f} µs the empty call, in this run"
    )

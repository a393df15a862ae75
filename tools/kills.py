"""Ends recorders the hard way at random moments, under load: what came is on disk.

``python tools/kills.py [COUNT [SEED]]``. Frames that were sent more than a second before the
end, and lost, are counted; every folder is read after the next start.
"""

import contextlib
import json
import multiprocessing
import os
import random
import re
import shutil
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from pathlib import Path

from websockets.sync.client import connect

from kickback.files.read import read_take

PROGRAM = Path(sys.executable).with_name("kickback")
SOURCES = ("tcp", "udp", "ws", "pipe", "follow")
RATES = (60, 1_000, 10_000)
TAKES = (0, 1, 20, 200)
"""Takes a second; 0 is a single one."""
ENCODINGS = ("jsonl", "jsonl", "csv", "parquet")
LOAD = 3
"""Processes that only use the processors, beside the recorders and their senders."""
AT_ONCE = 2
AGE = 1.0
"""Seconds after which nothing may be lost."""


class Game:
    """A recorder with a sender, and the moments at which frames left it."""

    def __init__(self, folder: Path, chance: random.Random) -> None:
        self.folder = folder
        self.source = chance.choice(SOURCES)
        self.rate = chance.choice(RATES)
        self.takes = chance.choice(TAKES)
        self.encoding = chance.choice(ENCODINGS)
        self.life = chance.uniform(0.2, 3.0)
        self.quiet = chance.random() < 0.5
        self.sent: list[float] = []
        self.frames = 0
        self.trouble = ""
        self.lost = self.kept = 0
        self._stack = contextlib.ExitStack()

    @property
    def what(self) -> str:
        """Return what this run was."""
        return (
            f"{self.source} {self.rate}/s, {self.takes} takes/s, {self.encoding},"
            f" {self.life:.2f} s{', quiet' if self.quiet else ''}"
        )

    def run(self) -> None:
        """Play, kill, start again, and hold what was sent against what is there."""
        try:
            self._play()
            self._check()
        except Exception as error:
            self.trouble = f"{type(error).__name__}: {error}"

    def _play(self) -> None:
        place = {"pipe": "-", "follow": "game.log"}.get(self.source, f"{self.source}:0")
        call = [str(PROGRAM), "record", place, "--as", self.encoding]
        call += ["--follow"] if self.source == "follow" else []
        call += ["--quiet"] if self.quiet else []
        with (self.folder / "said").open("wb") as said:
            recorder = subprocess.Popen(
                call, cwd=self.folder, stdin=subprocess.PIPE, stdout=said, stderr=said
            )
        try:
            send = self._opened(recorder)
            self._send(send)
            recorder.kill()
            self.killed = time.monotonic()
        finally:
            recorder.kill()
            recorder.wait()
            with contextlib.suppress(Exception):
                self._stack.close()
            with contextlib.suppress(OSError):
                recorder.stdin.close()

    def _opened(self, recorder):
        """Return what sends bytes to the recorder, once it listens."""
        if self.source == "pipe":
            self._said(r"reading")
            return lambda data: (recorder.stdin.write(data), recorder.stdin.flush())
        if self.source == "follow":
            file = (self.folder / "game.log").open("ab", buffering=0)
            self._said(r"reading")
            return file.write
        port = int(self._said(r"://[^ ,]*:(\d+)")[1])
        if self.source == "ws":
            page = self._stack.enter_context(
                connect(f"ws://127.0.0.1:{port}", compression=None, open_timeout=60)
            )
            return lambda data: page.send(data.decode())
        kind = socket.SOCK_STREAM if self.source == "tcp" else socket.SOCK_DGRAM
        sock = socket.socket(socket.AF_INET, kind)
        sock.connect(("127.0.0.1", port))
        return sock.sendall if self.source == "tcp" else self._datagrams(sock)

    @staticmethod
    def _datagrams(sock):
        def send(data):
            lines = data.splitlines(keepends=True)
            for at in range(0, len(lines), 20):
                sock.send(b"".join(lines[at : at + 20]))

        return send

    def _said(self, pattern):
        end = time.monotonic() + 60
        while time.monotonic() < end:
            found = re.search(pattern, (self.folder / "said").read_text(errors="replace"))
            if found:
                return found
            time.sleep(0.01)
        raise TimeoutError(pattern)

    def _send(self, send) -> None:
        head = json.dumps({"kickback": 1, "columns": ["t", "x", "y"]}).encode() + b"\n"
        began = time.monotonic()
        each = self.rate / self.takes if self.takes else float("inf")
        next_take, lines = 0.0, []
        while (now := time.monotonic() - began) < self.life:
            due = int(now * self.rate) - self.frames
            for _ in range(due):
                if self.frames >= next_take:
                    lines.append(head)
                    next_take += max(each, 1)
                number = self.frames
                lines.append(b"[%.6f,%d,0]\n" % ((number + 1) / self.rate, number))
                self.frames += 1
            if lines:
                send(b"".join(lines))
                self.sent += [time.monotonic()] * due
                lines = []
            time.sleep(0.005)

    def _check(self) -> None:
        again = subprocess.run(
            [PROGRAM, "record", "-", "--quiet"],
            cwd=self.folder,
            stdin=subprocess.DEVNULL,
            capture_output=True,
            check=False,
            timeout=120,
        )
        if b"Traceback" in again.stderr or again.returncode not in {0, 2}:
            self.trouble = again.stderr.decode(errors="replace")[-300:]
        found: set[int] = set()
        for path in (self.folder / "takes").glob("*"):
            if ".open." in path.name or path.name.endswith(".part"):
                self.trouble = f"{path.name} is left behind"
                continue
            found |= self._frames_of(path)
        due = sum(moment < self.killed - AGE for moment in self.sent)
        self.kept = len(found)
        self.lost = due - len(found & set(range(due)))

    def _frames_of(self, path: Path) -> set[int]:
        """Return the numbers of the frames in a take; one of a frame or none is no take yet."""
        try:
            return set(read_take(path).numbers("x").astype(int).tolist())
        except Exception as error:
            lines = path.read_bytes().splitlines()
            if "two frames" in str(error) or "no frames" in str(error):
                rows = [json.loads(line) for line in lines if line.startswith(b"[")]
                return {int(row[1]) for row in rows}
            self.trouble = str(error)
            return set()


def _busy() -> None:
    while True:
        sum(range(10_000))


def main(count: int = 500, seed: int = 0) -> int:
    """Run so many kills; the exit status is 1 where anything was lost."""
    chance = random.Random(seed)
    load = [multiprocessing.Process(target=_busy, daemon=True) for _ in range(LOAD)]
    for one in load:
        one.start()
    lost, trouble, kept, sources = 0, 0, 0, Counter()
    began = time.monotonic()
    try:
        for first in range(0, count, AT_ONCE):
            games = [
                Game(Path(tempfile.mkdtemp(prefix="kill-")), chance)
                for _ in range(min(AT_ONCE, count - first))
            ]
            threads = [threading.Thread(target=game.run) for game in games]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
            for game in games:
                lost, kept = lost + game.lost, kept + game.kept
                trouble += bool(game.trouble)
                sources[game.source] += 1
                if game.lost or game.trouble:
                    print(f"{game.what}: {game.lost} lost of {game.frames}; {game.trouble}")
                else:
                    shutil.rmtree(game.folder)
    finally:
        for one in load:
            one.kill()
    print(
        f"{count} kills in {time.monotonic() - began:.0f} s, {AT_ONCE} at once beside {LOAD} loads"
        f" ({', '.join(f'{n} {name}' for name, n in sorted(sources.items()))}):"
        f" {kept} frames kept, {lost} lost that were older than {AGE:g} s,"
        f" {trouble} folders in trouble"
    )
    return 1 if lost or trouble else 0


if __name__ == "__main__":
    os.environ.pop("KICKBACK_TOKEN", None)
    sys.exit(main(*map(int, sys.argv[1:])))

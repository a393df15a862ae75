"""A game that the recorder started: all of its processes, and how they end."""

import contextlib
import ctypes
import os
import signal
import subprocess
import sys
import time
from collections.abc import Mapping, Sequence
from typing import IO

__all__ = ["Game", "adopt_orphans"]

_GRACE = 2.0
"""Seconds that processes get to end when they are asked to."""

_CHILD_SUBREAPER = 36
"""Linux: what makes a process the parent of its descendants' orphans (prctl(2))."""


class Game:
    """A game and what it started in turn, as one group of processes."""

    def __init__(
        self, argv: Sequence[str], env: Mapping[str, str], output: IO[bytes], *, piped: bool
    ) -> None:
        """Start it; raises OSError where that cannot be."""
        self._process = subprocess.Popen(  # noqa: S603 - running the user's command is what --run is for
            argv,
            env=env,
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE if piped else output,
            stderr=output,
            start_new_session=True,
        )
        self.stdout = self._process.stdout
        self._over = False

    @property
    def status(self) -> int | None:
        """Return the exit status of the process that was started, None while it runs."""
        return self._process.poll()

    @property
    def running(self) -> bool:
        """Whether the game or anything that it started goes on: a launcher's game is a game."""
        return self._alive()

    def stop(self) -> None:
        """End the game and whatever it started, gently first; a second interrupt hurries."""
        if self._over:
            return
        interrupted = False
        for kind in (signal.SIGTERM, getattr(signal, "SIGKILL", signal.SIGTERM)):
            try:
                if self._gone_after(kind):
                    break
            except KeyboardInterrupt:
                interrupted = True
        self._over = True
        if interrupted:
            raise KeyboardInterrupt

    def _gone_after(self, kind: int) -> bool:
        """Send a signal to all of them; whether all were gone in time."""
        self._signal(kind)
        end = time.monotonic() + _GRACE
        while self._alive():
            if time.monotonic() > end:
                return False
            time.sleep(0.01)
        return True

    def _signal(self, kind: int) -> None:
        with contextlib.suppress(OSError):
            if hasattr(os, "killpg"):
                os.killpg(self._process.pid, kind)
            else:
                self._process.send_signal(kind)

    def _alive(self) -> bool:
        """Whether any process of the group is left; those that have ended are reaped."""
        leader = self._process.poll() is None
        if not hasattr(os, "killpg"):
            return leader
        with contextlib.suppress(ChildProcessError):
            while not leader and os.waitpid(-self._process.pid, os.WNOHANG)[0]:
                continue
        try:
            os.killpg(self._process.pid, 0)
        except ProcessLookupError:
            return leader
        except PermissionError:
            return True
        return True


def adopt_orphans() -> None:
    """Become the parent of what a game leaves running, where the system can do that.

    So that it can be reaped: not every machine has a first process that does.
    """
    if sys.platform == "linux":
        with contextlib.suppress(OSError, AttributeError):
            ctypes.CDLL(None).prctl(_CHILD_SUBREAPER, 1, 0, 0, 0)

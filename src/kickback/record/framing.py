"""From the bytes of a stream to blocks of whole lines."""

from collections.abc import Iterator

__all__ = ["Framing"]


class Framing:
    """Cuts a stream into blocks of whole lines; a line may come in pieces.

    A block is no longer than a line may be, so that whatever fits one has no line too long.
    """

    def __init__(self, longest: int) -> None:
        self._longest = longest
        self._rest = b""
        self._skipping = False

    def blocks(self, data: bytes) -> Iterator[bytes | None]:
        """Yield blocks that end in a line end; None stands for a line that is too long."""
        if self._skipping:
            _, end, data = data.partition(b"\n")
            if not end:
                return
            self._skipping = False
        block = self._rest + data if self._rest else data
        whole = block.rfind(b"\n") + 1
        self._rest = block[whole:]
        too_long = len(self._rest) > self._longest
        if too_long:
            self._rest, self._skipping = b"", True
        begin = 0
        while begin < whole:
            stop = block.rfind(b"\n", begin, begin + self._longest + 1) + 1
            if stop:
                yield block[begin:stop]
            else:
                stop = block.find(b"\n", begin) + 1
                yield None
            begin = stop
        if too_long:
            yield None

    def rest(self) -> bytes:
        """Return, and forget, what came after the last line end."""
        rest, self._rest = self._rest, b""
        return rest

    def clear(self) -> None:
        """Forget what a datagram left unfinished."""
        self._rest, self._skipping = b"", False

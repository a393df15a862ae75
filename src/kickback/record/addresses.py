"""From the words of a command line to sources: ``-``, a file, ``tcp``, ``udp:9000``, a URL."""

import ipaddress
import re
from collections.abc import Callable
from pathlib import Path

from kickback.errors import UsageError
from kickback.record.hub import Source
from kickback.takes.record import Record

__all__ = ["DEFAULT_SOURCES", "LOOPBACK", "SCHEMES", "Scheme", "is_loopback", "source_of"]

LOOPBACK = "127.0.0.1"
_LAST_PORT = 65_535
"""The highest port there is."""


class Scheme(Record, frozen=True, kw_only=True):
    """One way to listen: its name in an address, its usual port, and what makes its source."""

    name: str
    port: int
    make: Callable[[str, int, tuple[str, ...]], Source]

    def __post_init__(self) -> None:
        """Refuse an entry that cannot work, when it is made: at import."""
        if not self.name.isalpha() or not 0 < self.port <= _LAST_PORT:
            raise TypeError(f"the source '{self.name}' is incomplete: a name and a port")


def _tcp(host: str, port: int, _: tuple[str, ...]) -> Source:
    from kickback.record.tcp import TcpSource

    return TcpSource(host, port)


def _udp(host: str, port: int, _: tuple[str, ...]) -> Source:
    from kickback.record.udp import UdpSource

    return UdpSource(host, port)


def _web(host: str, port: int, origins: tuple[str, ...]) -> Source:
    from kickback.record.websocket import WebSocketSource  # its package takes a while to load

    return WebSocketSource(host, port, origins=origins)


SCHEMES = {
    one.name: one
    for one in (
        Scheme(name="tcp", port=7425, make=_tcp),
        Scheme(name="udp", port=7425, make=_udp),
        Scheme(name="ws", port=7426, make=_web),
    )
}
"""The ways to listen, beside a pipe and a file."""

DEFAULT_SOURCES = tuple(SCHEMES)
_NETWORK = re.compile(
    rf"(?P<scheme>{'|'.join(SCHEMES)})(?:://(?P<host>\[[0-9a-fA-F:.]+\]|[^:/\[\]]+))?(?::(?P<port>\d{{1,5}}))?/?"
)


def is_loopback(host: str) -> bool:
    """Whether a host is this machine alone."""
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False


def source_of(
    word: str, *, bind: str = LOOPBACK, follow: bool = False, origins: tuple[str, ...] = ()
) -> Source:
    """Return the source that a word names.

    Raises UsageError for a word that names none, and for an address that ``bind`` does
    not allow.
    """
    from kickback.record.pipe import FileSource, PipeSource

    if word == "-":
        return PipeSource(0)
    found = _NETWORK.fullmatch(word)
    if found is None:
        if "://" in word:
            raise UsageError(
                f"no source '{word}'; there is: - (a pipe), a file, "
                + ", ".join(f"{name}://{LOOPBACK}:PORT" for name in SCHEMES)
            )
        return FileSource(Path(word), follow=follow)
    scheme = SCHEMES[found["scheme"]]
    host = (found["host"] or bind).strip("[]")
    port = int(found["port"]) if found["port"] else scheme.port
    if port > _LAST_PORT:
        raise UsageError(f"'{word}': a port lies between 0 and {_LAST_PORT}")
    if host != bind and not is_loopback(host):
        raise UsageError(
            f"'{word}' is not on this machine alone; --bind {host} --token … allows it"
        )
    return scheme.make(host, port, origins)

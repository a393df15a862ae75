"""From the words of a command line to sources: ``-``, a file, ``tcp``, ``udp:9000``, a URL."""

import ipaddress
import re
from collections.abc import Callable
from pathlib import Path

from kickback.errors import UsageError
from kickback.record.hub import Source

__all__ = ["DEFAULT_SOURCES", "LOOPBACK", "is_loopback", "source_of"]

LOOPBACK = "127.0.0.1"
DEFAULT_SOURCES = ("tcp", "udp", "ws")
_PORTS = {"tcp": 7425, "udp": 7425, "ws": 7426}
_NETWORK = re.compile(
    r"(?P<scheme>tcp|udp|ws)(?:://(?P<host>\[[0-9a-fA-F:.]+\]|[^:/\[\]]+))?(?::(?P<port>\d{1,5}))?/?"
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
                f"no source '{word}'; there is: - (a pipe), a file, tcp://{LOOPBACK}:PORT,"
                f" udp://{LOOPBACK}:PORT, ws://{LOOPBACK}:PORT"
            )
        return FileSource(Path(word), follow=follow)
    scheme = found["scheme"]
    host = (found["host"] or bind).strip("[]")
    port = int(found["port"]) if found["port"] else _PORTS[scheme]
    if port > 65_535:
        raise UsageError(f"'{word}': a port lies between 0 and 65535")
    if host != bind and not is_loopback(host):
        raise UsageError(
            f"'{word}' is not on this machine alone; --bind {host} --token … allows it"
        )
    return _makers(origins)[scheme](host, port)


def _makers(origins: tuple[str, ...]) -> dict[str, Callable[[str, int], Source]]:
    """Return what makes the source of each scheme; a new one is one line here."""
    from kickback.record.tcp import TcpSource
    from kickback.record.udp import UdpSource

    def web(host: str, port: int) -> Source:
        from kickback.record.websocket import WebSocketSource  # its package takes a while to load

        return WebSocketSource(host, port, origins=origins)

    return {"tcp": TcpSource, "udp": UdpSource, "ws": web}

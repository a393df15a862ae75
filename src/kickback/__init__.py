"""Kickback measures how a game feels to move in, from per-frame motion traces.

The library's front door; everything is loaded when it is first asked for::

    import kickback

    take = kickback.read_take("takes/brisk-60.jsonl")
    table = kickback.measure(take).to_frame()
"""

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from kickback.errors import InputError, KickbackError
    from kickback.files.read import read_take
    from kickback.files.write import write_take
    from kickback.framerate.analyse import frame_rates
    from kickback.judging.compare import compare
    from kickback.kinds.examining import examine
    from kickback.kinds.foot.model.simulate import simulate
    from kickback.kinds.measuring import measure
    from kickback.kinds.recovering import recover_laws
    from kickback.kinds.table import analyse
    from kickback.record.sender import Recorder
    from kickback.takes.take import Take

__version__ = "0.1.0"

__all__ = [
    "InputError",
    "KickbackError",
    "Recorder",
    "Take",
    "analyse",
    "compare",
    "examine",
    "frame_rates",
    "measure",
    "read_take",
    "recover_laws",
    "simulate",
    "write_take",
]

_HOMES = {
    "InputError": "kickback.errors",
    "KickbackError": "kickback.errors",
    "Recorder": "kickback.record.sender",
    "Take": "kickback.takes.take",
    "analyse": "kickback.kinds.table",
    "compare": "kickback.judging.compare",
    "examine": "kickback.kinds.examining",
    "frame_rates": "kickback.framerate.analyse",
    "measure": "kickback.kinds.measuring",
    "read_take": "kickback.files.read",
    "recover_laws": "kickback.kinds.recovering",
    "simulate": "kickback.kinds.foot.model.simulate",
    "write_take": "kickback.files.write",
}


def __getattr__(name: str) -> Any:
    """Load a public name from its module when it is first used."""
    import importlib

    if name not in _HOMES:
        raise AttributeError(f"module 'kickback' has no attribute '{name}'")
    return getattr(importlib.import_module(_HOMES[name]), name)

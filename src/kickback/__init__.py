"""Kickback measures how a game feels to move in, from per-frame motion traces.

The library's front door; everything is loaded when it is first asked for::

    import kickback

    take = kickback.read_take("takes/brisk-60.jsonl")
    table = kickback.measure(take).to_frame()
"""

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from kickback.errors import InputError, KickbackError, UsageError
    from kickback.files.mapping import Mapping, read_mapping
    from kickback.files.read import read_take
    from kickback.files.write import write_take
    from kickback.findings.finding import Finding
    from kickback.framerate.analyse import frame_rates
    from kickback.framerate.record import FrameRates
    from kickback.judging.budgets import Budget, Target, parse_budget, parse_target
    from kickback.judging.compare import Comparison, MetricChange, compare
    from kickback.kinds.analysis import Analysis
    from kickback.kinds.examining import examine
    from kickback.kinds.measuring import measure
    from kickback.kinds.models import simulate
    from kickback.kinds.recovering import recover_laws
    from kickback.kinds.table import analyse
    from kickback.laws.record import Law, Laws
    from kickback.metrics.record import Measurement, Measurements
    from kickback.motion.options import Options
    from kickback.record.sender import Recorder
    from kickback.takes.take import Take
    from kickback.tuning.fit.fit import fit
    from kickback.tuning.fit.record import Fitted
    from kickback.tuning.reach.reach import reach
    from kickback.tuning.reach.record import Reach
    from kickback.tuning.solve.record import Solution
    from kickback.tuning.solve.solve import solve

__version__ = "0.1.0"

__all__ = [
    "Analysis",
    "Budget",
    "Comparison",
    "Finding",
    "Fitted",
    "FrameRates",
    "InputError",
    "KickbackError",
    "Law",
    "Laws",
    "Mapping",
    "Measurement",
    "Measurements",
    "MetricChange",
    "Options",
    "Reach",
    "Recorder",
    "Solution",
    "Take",
    "Target",
    "UsageError",
    "analyse",
    "compare",
    "examine",
    "fit",
    "frame_rates",
    "measure",
    "parse_budget",
    "parse_target",
    "reach",
    "read_mapping",
    "read_take",
    "recover_laws",
    "simulate",
    "solve",
    "write_take",
]

_HOMES = {
    "Analysis": "kickback.kinds.analysis",
    "Budget": "kickback.judging.budgets",
    "Comparison": "kickback.judging.compare",
    "Finding": "kickback.findings.finding",
    "Fitted": "kickback.tuning.fit.record",
    "FrameRates": "kickback.framerate.record",
    "InputError": "kickback.errors",
    "KickbackError": "kickback.errors",
    "Law": "kickback.laws.record",
    "Laws": "kickback.laws.record",
    "Mapping": "kickback.files.mapping",
    "Measurement": "kickback.metrics.record",
    "Measurements": "kickback.metrics.record",
    "MetricChange": "kickback.judging.compare",
    "Options": "kickback.motion.options",
    "Reach": "kickback.tuning.reach.record",
    "Recorder": "kickback.record.sender",
    "Solution": "kickback.tuning.solve.record",
    "Take": "kickback.takes.take",
    "Target": "kickback.judging.budgets",
    "UsageError": "kickback.errors",
    "analyse": "kickback.kinds.table",
    "compare": "kickback.judging.compare",
    "examine": "kickback.kinds.examining",
    "fit": "kickback.tuning.fit.fit",
    "frame_rates": "kickback.framerate.analyse",
    "measure": "kickback.kinds.measuring",
    "parse_budget": "kickback.judging.budgets",
    "parse_target": "kickback.judging.budgets",
    "reach": "kickback.tuning.reach.reach",
    "read_mapping": "kickback.files.mapping",
    "read_take": "kickback.files.read",
    "recover_laws": "kickback.kinds.recovering",
    "simulate": "kickback.kinds.models",
    "solve": "kickback.tuning.solve.solve",
    "write_take": "kickback.files.write",
}


def __getattr__(name: str) -> Any:
    """Load a public name from its module when it is first used."""
    import importlib

    if name not in _HOMES:
        raise AttributeError(f"module 'kickback' has no attribute '{name}'")
    return getattr(importlib.import_module(_HOMES[name]), name)


def __dir__() -> list[str]:
    """Return the public names, also those that are not loaded yet."""
    return sorted(__all__)

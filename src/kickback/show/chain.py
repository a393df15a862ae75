"""Why metrics moved, and where two takes part, in sentences."""

from collections.abc import Collection

from kickback.judging.chain import Chain, Link, MovedMetric
from kickback.judging.differing import FirstDifference
from kickback.show.console import Printer
from kickback.show.numbers import as_written
from kickback.takes.numerals import plain

__all__ = ["parting", "show_chain"]


def show_chain(printer: Printer, chain: Chain) -> None:
    """Print what moved what."""
    idle = (*chain.idle, *chain.unseen)
    if not (chain.links or chain.unexplained or idle or chain.rules):
        return
    printer.line()
    printer.line("Why", style="bold")
    told: set[str] = set()
    for link in chain.links:
        printer.paragraph(_link(link, told))
        told |= {one.metric for one in link.metrics}
    if chain.rules:
        printer.paragraph(_rules(chain))
    for item in idle:
        what = (
            "moved nothing: what these takes show of it stayed as it was"
            if item in chain.idle
            else "these takes do not show what it does"
        )
        change = f"{item.name} {as_written(item.base)} → {as_written(item.candidate)}"
        printer.paragraph(f"{change}: {what}", style="yellow")
    if chain.unexplained:
        printer.paragraph(_unexplained(chain), style="yellow")


def _rules(chain: Chain) -> str:
    """Say which phases follow another law, and what may have switched that."""
    rules = ", ".join(f"{one.phase} {one.base} → {one.candidate}" for one in chain.rules)
    by = ", ".join(
        f"{one.name} {as_written(one.base)} → {as_written(one.candidate)}" for one in chain.switches
    )
    return f"other rules: {rules}" + (f"; with {by}" if by else "")


def _unexplained(chain: Chain) -> str:
    """Say which metrics nothing that is known has moved."""
    names = ", ".join(f"{one.metric} {one.share:+.1%}" for one in chain.unexplained)
    if not chain.parameters_known:
        return f"no constant that was read explains {names}; the takes name no parameters"
    if chain.idle or chain.unseen or any(link.parameter for link in chain.links):
        return f"no parameter that changed explains {names}"
    return f"no parameter changed, and these did, so the code has: {names}"


def _link(link: Link, told: Collection[str]) -> str:
    """Return a chain in a sentence: the parameter, its constants, the metrics that these move.

    Of metrics that are ``told`` already, or that no closed form foretells, the groups are named.
    """
    head = "no parameter changed"
    if link.parameter is not None:
        own = link.parameter
        head = f"{own.name} {as_written(own.base)} → {as_written(own.candidate)}"
    constants = ", ".join(
        f"{one.name} {plain(one.base)} → {plain(one.candidate)} {one.unit} ({one.ratio - 1:+.1%})"
        for one in link.constants
    )
    text = f"{head}: {constants}"
    new = [one for one in link.metrics if one.foretold is not None and one.metric not in told]
    others = dict.fromkeys(one.metric.partition(".")[0] for one in link.metrics if one not in new)
    if new:
        text += f"; {', '.join(_metric(one) for one in new)}"
    if others:
        text += f"; moves {', '.join(others)}"
    if link.besides:
        text += f" — beside its own also {', '.join(link.besides)}"
    return text


def _metric(one: MovedMetric) -> str:
    text = f"{one.metric} {one.share:+.1%}"
    if one.foretold is None:  # pragma: no cover - such are named only
        return text
    if one.as_foretold:
        return f"{text} as {one.words} foretells"
    return f"{text} where {one.words} foretells {one.foretold:+.1%}"


def parting(first: FirstDifference) -> str:
    """Say where two takes part, and how far."""
    names = ", ".join(first.columns[:4]) + (", …" if len(first.columns) > 4 else "")
    text = (
        f"The takes part in frame {first.frame}, at {first.time:.4g} s ({first.phase}): {names}"
        f" ({plain(first.base)} against {plain(first.candidate)})"
    )
    if first.inputs:
        text += "; inputs or frame times differ there, so that the game need not"
    grown = [f"{apart:.3g} {first.unit} after {k} frames" for k, apart in first.growth if k]
    return f"{text}. They are apart by {', '.join(grown)}." if grown else f"{text}."

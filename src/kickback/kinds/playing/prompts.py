"""A drill as a person is told it: what to press now, what comes next, and when."""

from collections.abc import Sequence
from itertools import pairwise

from kickback.kinds.playing.drills import Drill
from kickback.takes.record import Record

__all__ = ["Prompt", "prompt_at", "prompts_of"]


_SIDES = {
    "in_move_x": ("RIGHT", "LEFT"),
    "in_throttle": ("THROTTLE", "THROTTLE BACK"),
    "in_steer": ("WHEEL TO PLUS", "WHEEL TO MINUS"),
}
"""What an amount above 0 and one below is called to a person."""


class Prompt(Record, frozen=True, kw_only=True):
    """What is to be held from ``at`` until ``until``, s."""

    at: float
    until: float
    text: str


def prompts_of(drill: Drill) -> list[Prompt]:
    """Return a drill's prompts, without gaps, from 0 to its length."""
    edges = {0.0, drill.length}
    for item in drill.inputs:
        edges |= {item.at, item.until}
    times = sorted(time for time in edges if time <= drill.length)
    found: list[Prompt] = []
    for at, until in pairwise(times):
        text = _text_at(drill, (at + until) / 2)
        if found and found[-1].text == text:
            found[-1] = Prompt(at=found[-1].at, until=until, text=text)
        else:
            found.append(Prompt(at=at, until=until, text=text))
    return found


def prompt_at(prompts: Sequence[Prompt], time: float) -> tuple[Prompt, Prompt | None]:
    """Return the prompt at a time, and the one after it."""
    index = max((i for i, item in enumerate(prompts) if item.at <= time), default=0)
    after = prompts[index + 1] if index + 1 < len(prompts) else None
    return prompts[index], after


def _text_at(drill: Drill, time: float) -> str:
    held: dict[str, float] = {}
    for item in drill.inputs:
        if item.at <= time < item.until:
            held |= item.values
    words = [_words(name, amount) for name, amount in held.items() if amount]
    return "hold " + " + ".join(words) if words else "let go of everything"


def _words(column: str, amount: float) -> str:
    if column not in _SIDES:
        return column.removeprefix("in_").upper()
    side = _SIDES[column][amount < 0]
    return side if abs(amount) == 1 else f"{side} at {abs(amount):.0%}"

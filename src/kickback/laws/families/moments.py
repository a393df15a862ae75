"""Laws of moments and of order: impulses, cuts, timers, and how positions follow speeds."""

from kickback.laws.families.code import speed_word
from kickback.laws.families.family import Family
from kickback.laws.record import Law
from kickback.takes.numerals import plain
from kickback.takes.quantities import FRAMES, RATIO, SPEED, TIME

__all__ = ["CUT", "IMPULSE", "ORDER", "POSITION_RULE", "TIMER"]

_NEAR = 0.02
"""How far θ may be from a rule's own to be read as it: what orders leave apart is ½."""


def _position(law: Law) -> str:
    theta, scale = law.value("theta"), law.value("scale")
    if law.clock == "frame":  # no time step in it
        speed = {0: "old speed", 1: "new speed"}.get(round(theta) if abs(theta - 0.5) > 0.4 else -1)
        return f"position += {speed or 'mean of both speeds'}   each frame"
    size = "" if abs(scale - 1) < 1e-3 else f"{plain(scale)}·"
    if abs(theta - 1) < _NEAR:
        return f"position += {size}new speed·dt"
    if abs(theta) < _NEAR:
        return f"position += {size}old speed·dt"
    if abs(theta - 0.5) < _NEAR:
        return f"position += {size}mean of both speeds·dt"
    return f"position += {size}({plain(1 - theta)}·old + {plain(theta)}·new speed)·dt"


def _cut(law: Law) -> str:
    names = {item.name for item in law.constants}
    word = speed_word(law.role)
    if "factor" in names:
        return f"{word} *= {plain(law.value('factor'))}   when jump is let go"
    return f"{word} = {plain(law.value('speed'))}   when jump is let go"


def _timer(law: Law) -> str:
    seconds = law.constant("seconds")
    return f"{law.phase.base} time {'> ' if seconds.open else ''}{plain(seconds.value)} s"


IMPULSE = Family(
    name="impulse",
    words="set at once",
    constants={"speed": SPEED},
    scaling=("speed",),
    code=lambda law: f"{speed_word(law.role)} = {plain(law.value('speed'))}   at {law.phase}",
)
CUT = Family(
    name="cut",
    words="cut short",
    constants={"factor": RATIO, "speed": SPEED},
    code=_cut,
)
TIMER = Family(
    name="timer",
    words="timer",
    constants={"seconds": TIME, "frames": FRAMES},
    scaling=("seconds",),
    code=_timer,
)
POSITION_RULE = Family(
    name="position-rule",
    words="position rule",
    constants={"theta": RATIO, "scale": RATIO},
    scaling=("scale", "theta"),
    code=_position,
)
ORDER = Family(
    name="order",
    words="order at the floor",
    constants={"lag": FRAMES},
    code=lambda law: "collide, then move" if law.value("lag") else "move, then collide",
)

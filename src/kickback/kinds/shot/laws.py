"""The laws of a projectile: gravity and drag of its flights, its launch, and its cadence."""

from collections.abc import Sequence

import numpy as np

from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.shot.launches import ROUNDED, bursts_of, launches_of, timer_of, waits_of
from kickback.kinds.shot.motion import ShotMotion
from kickback.kinds.shot.roles import ACROSS, UP
from kickback.kinds.shot.rules import by_its_own_speeds, goes_straight, position_law
from kickback.kinds.shot.scene import Scene
from kickback.kinds.shot.unexplained import unexplained_of
from kickback.laws.families.level import CONSTANT_SPEED
from kickback.laws.families.moments import IMPULSE
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Constant, Law, Laws
from kickback.laws.select import Selected
from kickback.laws.selected_law import law_of
from kickback.laws.step_model import PUSH
from kickback.laws.timing import timer
from kickback.motion.clock import EVEN, uneven_share
from kickback.takes.numeric import median
from kickback.takes.plain import PlainDict
from kickback.takes.quantities import SPEED
from kickback.takes.record import replace

__all__ = ["CADENCE", "COOLDOWN", "FLIGHT", "LAUNCH", "cadence_laws", "shot_laws"]

FLIGHT = PhaseKey("flight")
LAUNCH = PhaseKey("launch")
CADENCE = PhaseKey("cadence")
COOLDOWN = PhaseKey("cooldown")

_WAITS = {
    "frame": "it counts frames: as many each time, however long they last",
    ROUNDED: "it begins anew with each launch: each wait is rounded up to a frame",
}
"""What is said of a timer by its clock."""

_ALIKE = 0.01
"""Share by which launches may differ and be of one speed."""


def shot_laws(motion: ShotMotion) -> Laws:
    """Return the rule of the flights, of the launch, and of how positions follow speeds."""
    if not motion.arcs:
        return Laws(rows=[], even=motion.clock.even)
    scene = Scene(by_its_own_speeds(motion), own=True)
    rows = [_flight(motion, scene.rule), *_launches(scene.motion, scene)]
    rule = position_law(motion, UP if motion.flies else ACROSS)
    if rule is not None and rule.clock == "frame":
        rows = [replace(row, by_frame=True) for row in rows]
    rows += [rule] if rule is not None else []
    return Laws(
        rows=rows,
        even=motion.clock.even,
        consequences=[one for row in rows if row.family for one in row.family.follows(row)],
    )


def _flight(motion: ShotMotion, rule: Selected | None) -> Law:
    first, last = motion.arcs[0], motion.arcs[-1]
    role = UP if motion.flies else ACROSS
    base = Law(
        take=motion.take.name,
        role=role,
        phase=FLIGHT,
        start=float(motion.begin[first.start]),
        end=float(motion.t[last.stop - 1]),
        axis=motion.tracks[role.name].axis,
        frame=motion.clock.usual,
    )
    if rule is None:
        if goes_straight(motion, first):
            speed = motion.speed[first.start : first.stop]
            unit = SPEED.within(motion.take.header.length_unit)
            one = Constant(name="speed", value=median(speed), unit=unit, stderr=0.0)
            return replace(base, family=CONSTANT_SPEED, constants=(one,))
        return replace(base, **_unexplained(motion))
    return _of_rule(motion, base, rule)


def _unexplained(motion: ShotMotion) -> PlainDict:
    """Return the reason of a flight that no known rule explains, and what is left of it."""
    other, unit = unexplained_of(motion), motion.take.header.length_unit
    if other is None:
        return {"reason": "its flights are too short to tell a rule"}
    left = f"{other.across:.3g} {unit}/s² across it and {other.along:.3g} along it are left"
    reason = f"neither gravity nor drag explains its path: {left}; {other.cause}"
    return {"reason": reason, "misfit": other.size * motion.clock.usual}


def _of_rule(motion: ShotMotion, base: Law, rule: Selected) -> Law:
    values = dict(rule.values)
    if PUSH.name in values:  # gravity is down
        values[PUSH.name] = -values[PUSH.name]
    return law_of(base, replace(rule, values=values), motion.take.header.length_unit)


def _launches(motion: ShotMotion, scene: Scene) -> Sequence[Law]:
    """Return the speed that launches give, and whether the time step is in it."""
    shots = scene.shots
    if not shots:
        return ()
    launches = [scene.launch(arc) for arc in shots]
    speed = np.array([float(np.hypot(abs(one.drift), one.rise)) for one in launches])
    dt = np.array([float(motion.dt[arc.start]) for arc in shots])
    by_step = False
    if len(speed) > 1 and uneven_share(dt) > EVEN:
        share = speed / dt
        by_step = (
            float(np.ptp(share)) / float(share.mean())
            <= _ALIKE
            < float(np.ptp(speed)) / float(speed.mean())
        )
    sure = max(one.sure for one in launches) / 2
    unit = SPEED.within(motion.take.header.length_unit)
    value = median(speed / dt) * motion.clock.usual if by_step else median(speed)
    spread = float(np.ptp(speed))
    constant = Constant(name="speed", value=value, unit=unit, stderr=sure)
    return (
        Law(
            take=motion.take.name,
            role=ACROSS,
            phase=LAUNCH,
            start=float(motion.begin[shots[0].start]),
            end=float(motion.t[shots[-1].start]),
            axis=motion.tracks[ACROSS.name].axis if ACROSS.name in motion.tracks else "",
            family=IMPULSE,
            constants=(constant,),
            frames=len(shots),
            frame=motion.clock.usual,
            misfit=spread,
            clock="step" if by_step else "even",
            reason="is multiplied by the time step" if by_step else None,
        ),
    )


def cadence_laws(analysis: AnyAnalysis) -> list[Law]:
    """Return the timers between launches: within bursts and after them, where two show each.

    Without bursts the cooldown lies between the presses that came too soon and those that worked.
    """
    if not analysis.motions or ACROSS.name not in analysis.motions[0].tracks:
        return []
    motion: ShotMotion = analysis.motions[0]
    launches = launches_of(analysis, game=True)
    found, rows = bursts_of(launches), []
    # rounded steps add up to the game's time
    unsure = motion.clock.grid + analysis.prints["dt"].grid * len(analysis.take) ** 0.5
    for phase, which in ((CADENCE, ~found.long), (COOLDOWN, found.long)):
        if which.any():
            wait = timer_of(launches, found.row[which], unsure)
            used = int(np.count_nonzero(which))
            one = timer(motion, phase, ACROSS, wait[:2], used=used, clock=wait.clock)
            rows.append(replace(one, reason=_WAITS.get(wait.clock)))
    waits = waits_of(launches) if not found.long.any() else None
    if waits is not None:
        rows.append(timer(motion, COOLDOWN, ACROSS, waits[:2], used=1))
    return rows

"""What a look at a projectile finds: launches that are late, or from behind the muzzle."""

import numpy as np

from kickback.findings.finding import Finding, FindingKind, finding
from kickback.kinds.shot.motion import ShotMotion
from kickback.kinds.shot.scene import Scene

__all__ = ["FINDINGS", "check_muzzle", "check_spawn"]

SPAWN_LATE = FindingKind(
    code="spawn-late",
    severity="warning",
    advice="launch in the update that reads the press: at a low frame rate the frame is felt",
)
SPAWNED_BEHIND = FindingKind(
    code="spawned-behind",
    severity="warning",
    advice="begin the first step at the muzzle, or fast targets are shot through from behind",
)

FINDINGS = (SPAWN_LATE, SPAWNED_BEHIND)
"""What these checks may say."""

_FAR = 0.02
"""Share of a first step that a launch may lie behind its muzzle."""


def check_spawn(motion: ShotMotion) -> list[Finding]:
    """Return launches that come a frame or more after the press that they answer."""
    fire = motion.fire
    if fire is None:
        return []
    presses = np.flatnonzero(fire & ~np.concatenate((fire[:1], fire[:-1])))
    found = []
    for arc in motion.arcs:
        if not arc.launched or not arc.rested:
            continue
        before = presses[presses <= arc.start]
        if not len(before):
            continue
        late = arc.start - int(before[-1])
        if late == 1:  # longer ones wait for something: a cooldown, a charge
            found.append(
                finding(
                    SPAWN_LATE,
                    int(before[-1]),
                    arc.start + 1,
                    "the shot leaves a frame after the press",
                )
            )
    return found


def check_muzzle(motion: ShotMotion) -> list[Finding]:
    """Return launches that begin behind the header's ``muzzle``, along their direction."""
    place = motion.muzzle
    if place is None:
        return []
    muzzle, high = place
    scene, found = Scene(motion), []
    for arc in scene.shots:
        row = arc.start
        size = float(motion.speed[row])
        step = size * float(motion.dt[row])
        off = complex(motion.ground[row]) - muzzle
        along = (off * np.conj(motion.drift[row])).real
        along += (motion.height[row] - high) * motion.rise[row]
        ahead = float(along) / size
        if ahead < -_FAR * step - 2 * motion.quantum:
            unit = motion.take.header.length_unit
            what = f"the shot begins {-ahead:.3g} {unit} behind the muzzle"
            found.append(finding(SPAWNED_BEHIND, row, row + 1, what))
    return found

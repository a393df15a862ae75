"""The kind of a projectile: from the side, in three dimensions, or from above."""

from typing import TYPE_CHECKING

from kickback.kinds.kind import Kind, Measuring, Reading, Rules, Showing
from kickback.kinds.shot.roles import ACROSS, ASIDE, SHOT_COLUMN, UP
from kickback.takes.take import Take

if TYPE_CHECKING:
    from kickback.kinds.model import Model
    from kickback.kinds.shot.motion import ShotMotion
    from kickback.kinds.shot.scene import Scene

__all__ = ["SHOT"]

HEADLINES = (
    "shot.launch_speed",
    "shot.range",
    "shot.flight_time",
    "shot.apex_height",
    "shot.launch_angle",
    "shot.gravity",
    "shot.impact_speed",
    "shot.cadence",
    "shot.spread",
)
"""What is shown first where there is room for a few, the most telling one at the head."""


def _applies(take: Take) -> bool:
    """Whether a take is of a projectile: shots are counted or fired, and nothing steers it."""
    steers = {"in_move_x", "in_jump", "in_throttle", "in_steer"} & set(take.columns)
    return ("in_fire" in take or SHOT_COLUMN in take) and not steers


def _reading() -> "Reading[ShotMotion]":
    from kickback.kinds.shot.motion import join_motions, read_motion, unread_leaps
    from kickback.kinds.shot.phases import no_interruption, shot_events, shot_phases

    return Reading(
        read=read_motion,
        breaks=unread_leaps,
        join=join_motions,
        phases=shot_phases,
        events=shot_events,
        begins=lambda motion: motion.begun,
        leap=no_interruption,
    )


def _measuring() -> "Measuring[ShotMotion, Scene]":
    from kickback.kinds.shot.findings import FINDINGS, check_muzzle, check_spawn
    from kickback.kinds.shot.metrics.aiming import AIM_METRICS
    from kickback.kinds.shot.metrics.firing import FIRE_METRICS
    from kickback.kinds.shot.metrics.flights import FLIGHT_METRICS
    from kickback.kinds.shot.scene import Scene

    return Measuring(
        metrics=(*FLIGHT_METRICS, *FIRE_METRICS, *AIM_METRICS),
        scene=Scene,
        headlines=HEADLINES,
        checks=(check_spawn, check_muzzle),
        findings=FINDINGS,
    )


def _rules() -> "Rules[ShotMotion]":
    from kickback.kinds.shot.causes import CADENCE_ROUNDED
    from kickback.kinds.shot.effects import FORETOLD, MEANS, groups_of, moved, moved_by_order
    from kickback.kinds.shot.laws import cadence_laws, shot_laws

    return Rules(
        laws=shot_laws,
        of_take=cadence_laws,
        causes=(CADENCE_ROUNDED,),
        moved=moved,
        by_order=moved_by_order,
        foretold=FORETOLD,
        groups_of=groups_of,
        phases_of_words=MEANS,
    )


def _showing() -> "Showing[ShotMotion]":
    from kickback.kinds.shot.picture import shot_now, shot_picture

    return Showing(picture=shot_picture, now=shot_now)


def _model() -> "Model":
    from kickback.kinds.shot.model.model import SHOT_MODEL

    return SHOT_MODEL


SHOT = Kind(
    name="shot",
    about="a projectile that is thrown, lobbed or fired, in any view",
    roles=(ACROSS, ASIDE, UP),
    applies=_applies,
    load_reading=_reading,
    load_measuring=_measuring,
    load_rules=_rules,
    load_showing=_showing,
    load_model=_model,
)

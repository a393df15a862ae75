"""The kind of a character on foot: seen from the side, from above, or in three dimensions."""

from typing import TYPE_CHECKING

from kickback.kinds.foot.roles import ACROSS, ASIDE, UP
from kickback.kinds.kind import Kind, Measuring, Reading, Rules, Showing
from kickback.takes.take import Take

if TYPE_CHECKING:
    from kickback.kinds.foot.motion import FootMotion
    from kickback.kinds.foot.scene import Scene
    from kickback.kinds.model import Model

__all__ = ["FOOT"]


HEADLINES = (
    "run.time_to_top_speed",
    "coast.stop_distance",
    "jump.apex_height",
    "run.top_speed",
    "turn.time",
    "jump.air_time",
    "jump.distance",
    "hop.apex_height",
    "hop.air_time",
)
"""What is shown first where there is room for a few, the most telling one at the head."""


def _applies(take: Take) -> bool:
    """Whether a take is of a character on foot: it is, but for what a throttle drives."""
    have = set(take.columns)
    if {"in_move_x", "in_jump"} & have:
        return True
    return not {"in_throttle", "in_steer", "in_fire", "shot"} & have


def _reading() -> "Reading[FootMotion]":
    from kickback.kinds.foot.events import events_of
    from kickback.kinds.foot.interruptions import cut_scenes, flights_of, leap_from
    from kickback.kinds.foot.joining import join_motions
    from kickback.kinds.foot.motion import read_motion
    from kickback.kinds.foot.phases import foot_phases

    return Reading(
        read=read_motion,
        join=join_motions,
        phases=foot_phases,
        events=events_of,
        interruptions=cut_scenes,
        leap=leap_from,
        flights=flights_of,
    )


def _measuring() -> "Measuring[FootMotion, Scene]":
    from kickback.kinds.foot.doubts import doubts_of, made_exact
    from kickback.kinds.foot.findings import (
        diagonal,
        flags,
        flights,
        ground,
        inputs,
        landings,
        seams,
        velocity,
        view,
    )
    from kickback.kinds.foot.metrics import (
        air,
        ceiling,
        dash,
        fall,
        hold,
        jump,
        jump_windows,
        nearly_stopped,
        pace,
        plane,
        platform,
        presses,
        run,
        slope,
        slowing,
        stick,
        turning,
        wall,
    )
    from kickback.kinds.foot.metrics import inputs as latency
    from kickback.kinds.foot.scene import Scene
    from kickback.metrics.metric import in_groups

    return Measuring(
        metrics=in_groups(
            (
                *run.METRICS,
                *pace.METRICS,
                *stick.METRICS,
                *slowing.METRICS,
                *turning.METRICS,
                *nearly_stopped.METRICS,
                *plane.METRICS,
                *slope.METRICS,
                *jump.METRICS,
                *hold.METRICS,
                *ceiling.METRICS,
                *jump_windows.METRICS,
                *air.METRICS,
                *fall.METRICS,
                *wall.METRICS,
                *dash.METRICS,
                *platform.METRICS,
                *latency.METRICS,
                *presses.METRICS,
            )
        ),
        scene=Scene,
        headlines=HEADLINES,
        doubts=doubts_of,
        exact=made_exact,
        checks=(
            velocity.check_velocity,
            velocity.check_positions,
            ground.check_contact,
            flights.check_flights,
            inputs.check_inputs,
            ground.check_floor,
            ground.check_fell_through,
            ground.check_probe,
            landings.check_bounces,
            landings.check_stuck,
            flags.check_late_flag,
            flags.check_vain_presses,
            flags.check_sinking,
            seams.check_seams,
            view.check_view,
            diagonal.check_diagonals,
        ),
        findings=(
            *velocity.FINDINGS,
            *ground.FINDINGS,
            *flights.FINDINGS,
            *inputs.FINDINGS,
            *landings.FINDINGS,
            *flags.FINDINGS,
            *seams.FINDINGS,
            *view.FINDINGS,
            *diagonal.FINDINGS,
        ),
    )


def _rules() -> "Rules[FootMotion]":
    from kickback.kinds.foot.effects import moved, moved_by_order, order_advice
    from kickback.kinds.foot.foretold import FORETOLD, MEANS, groups_of
    from kickback.kinds.foot.laws.recover import foot_laws
    from kickback.kinds.foot.laws.residuals import foot_residuals
    from kickback.laws.families.vector import VECTOR

    return Rules(
        laws=foot_laws,
        residuals=foot_residuals,
        families=VECTOR,
        moved=moved,
        by_order=moved_by_order,
        order_advice=order_advice,
        foretold=FORETOLD,
        groups_of=groups_of,
        phases_of_words=MEANS,
    )


def _showing() -> "Showing[FootMotion]":
    from kickback.kinds.foot.moves import MOVES
    from kickback.kinds.foot.picture import foot_now, foot_picture

    return Showing(picture=foot_picture, now=foot_now, moves=MOVES)


def _model() -> "Model":
    from kickback.kinds.foot.model.model import FOOT_MODEL

    return FOOT_MODEL


FOOT = Kind(
    name="foot",
    about="a character on foot, in any view",
    roles=(ACROSS, ASIDE, UP),
    applies=_applies,
    load_reading=_reading,
    load_measuring=_measuring,
    load_rules=_rules,
    load_showing=_showing,
    load_model=_model,
)

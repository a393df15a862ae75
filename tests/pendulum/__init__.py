"""A kind of subject that only the tests know: a pendulum, told by its ``angle`` column.

It shows what another kind takes: this folder, and one line in the table of kinds.
"""

import numpy as np

from kickback.causes.cause import CauseKind
from kickback.causes.evidence import told
from kickback.kinds.kind import Kind, Measuring, Reading, Rules, itself
from kickback.laws.families.family import Family
from kickback.laws.keys import PhaseKey
from kickback.laws.least_squares import solved
from kickback.laws.record import Constant, Law, Laws
from kickback.metrics.metric import LARGEST, Metric
from kickback.metrics.record import Occurrences
from kickback.motion.motion import Event, Motion, Phase
from kickback.motion.tracks import Column, axis_track
from kickback.takes.quantities import ANGLE, PER_TIME
from kickback.takes.record import replace
from kickback.takes.roles import Role

SWING = Role(name="swing", missing="the take has no angle")


def read(take, clock, prints, options):
    angle = take.numbers("angle")
    column = Column(axis="angle", p=angle, grid=prints["angle"].grid)
    track = axis_track(column, clock, np.zeros(len(angle), dtype=np.int64))
    return Motion(take=take, clock=clock, options=options, tracks={SWING.name: track}, rest_speed=0)


def join(take, parts, options):
    return replace(parts[0][1], take=take, options=options)


def phases(motion):
    return [Phase(track="swing", name="swing", start=0, stop=len(motion.t), inferred=False)]


def events(motion):
    p = motion.tracks["swing"].p
    rows = np.flatnonzero((p[1:] >= 0) & (p[:-1] < 0)) + 1
    return [
        Event(name="middle", time=float(motion.t[row]), frame=int(row), inferred=True)
        for row in rows
    ]


def amplitude(motion):
    size = np.abs(motion.tracks["swing"].p)
    at = np.array([int(np.argmax(size))])
    zero = np.zeros(1)
    return Occurrences(value=size[at], start=motion.t[at], end=motion.t[at], resolution=zero,
                       frame_shift=zero)  # fmt: skip


SPRING = Family(
    name="spring",
    words="a pull toward the middle",
    constants={"stiffness": PER_TIME * PER_TIME},
    scaling=("stiffness",),
    code=lambda law: f"swing += −{law.value('stiffness'):.4g}·angle·dt",
)


def laws(motion):
    """Fit ``Δ²angle/dt² = −k·angle`` by least squares."""
    p, dt = motion.tracks["swing"].p, float(motion.dt[1])
    done = solved(-p[1:-1, None], np.diff(p, 2) / dt**2)
    unit = SPRING.constants["stiffness"].within("m")
    error = max(float(done.stderr[0]), 1e-9)
    stiffness = Constant(name="stiffness", value=float(done.found[0]), unit=unit, stderr=error)
    law = Law(
        take=motion.take.name, role=SWING, phase=PhaseKey("swing"), start=float(motion.begin[0]),
        end=float(motion.t[-1]), axis="angle", family=SPRING, constants=(stiffness,),
    )  # fmt: skip
    return Laws(rows=[law], even=True)


def tell(evidence):
    terms = evidence.terms([("stiffness", 1)])
    return told(STIFFENS, terms) if terms else None


STIFFENS = CauseKind(
    name="stiffness-per-frame",
    about="the pull is added once per frame, without the time step",
    tell=tell,
    cure=lambda cause, bench: f"multiply the pull by the time step, at {bench.keep:g} frames/s",
)

PENDULUM = Kind(
    name="pendulum",
    about="a weight that swings",
    roles=(SWING,),
    applies=lambda take: "angle" in take,
    load_reading=lambda: Reading(read=read, join=join, phases=phases, events=events),
    load_measuring=lambda: Measuring(
        scene=itself,
        metrics=(
            Metric(
                group="swing",
                part="amplitude",
                dimension=ANGLE,
                title="Amplitude",
                definition="The largest angle from the middle.",
                formula="max(|angle|)",
                measure=amplitude,
                needs=(SWING,),
                combine=LARGEST,
            ),
        ),
    ),
    load_rules=lambda: Rules(
        laws=laws, moved=lambda row, steady: ("swing",), families=(SPRING,), causes=(STIFFENS,)
    ),
)

"""The engine of laws: what a step does, how observations tell it, and what is selected."""

import itertools

import numpy as np
import pytest

from conftest import take_of, without
from kickback.kinds.measuring import measure
from kickback.kinds.recovering import recover_laws, residuals_of
from kickback.kinds.table import analyse
from kickback.laws.families.acceleration import CONSTANT_ACCELERATION
from kickback.laws.families.drive import DRIVE
from kickback.laws.families.friction import FRICTION
from kickback.laws.families.smoothing import SMOOTHING
from kickback.laws.families.table import FAMILIES, choices_of
from kickback.laws.fitter import Fitter
from kickback.laws.forces import select_forces
from kickback.laws.observations import Observations, Stretch
from kickback.laws.select import select
from kickback.laws.step_model import (
    LINEAR,
    PUSH,
    QUADRATIC,
    ROLLING,
    TOWARD,
    StepModel,
    models_of,
    toward,
)
from kickback.takes.computed_once import computed_once
from root_drag import ROOT, ROOT_DRAG
from truth.moves import moves
from truth.recurrence import during, play, steps

UNEVEN = np.random.default_rng(7).uniform(0.8, 1.2, 40) / 60
PLAIN = {
    "push": (PUSH, lambda v, h: v + 3 * h, [3.0]),
    "linear": (LINEAR, lambda v, h: v * np.exp(-2 * h), [2.0]),
    "toward": (TOWARD, lambda v, h: 5 + (v - 5) * np.exp(-2 * h), [5.0, 2.0]),
    "rolling": (ROLLING, lambda v, h: np.sign(v) * max(abs(v) - 4 * h, 0), [4.0]),
    "quadratic": (QUADRATIC, lambda v, h: v - 0.3 * v * abs(v) * h, [0.3]),
    "root": (ROOT, lambda v, h: v - 2 * np.sign(v) * abs(v) ** 0.5 * h, [2.0]),
}


@pytest.mark.parametrize("name", PLAIN)
@pytest.mark.parametrize("v", [6.0, -6.0])
def test_a_term_does_what_a_line_of_code_does(name, v):
    term, line, constants = PLAIN[name]
    model = StepModel(terms=(term,), clocks=("second",))
    for h in (0.01, 0.03):
        after = model.after(np.array([v]), np.array([h]), 1 / 60, np.array(constants))
        assert after[0] == pytest.approx(line(v, h), rel=1e-12)


@pytest.mark.parametrize(
    ("clock", "kept"),
    [("second", np.exp(-2 * 0.03)), ("frame", np.exp(-2 / 60)), ("first-order", 1 - 2 * 0.03)],
)
def test_a_clock_says_whose_a_rate_is(clock, kept):
    model = StepModel(terms=(LINEAR,), clocks=(clock,))
    after = model.after(np.array([8.0]), np.array([0.03]), 1 / 60, np.array([2.0]))
    assert after[0] == pytest.approx(8 * kept)


@pytest.mark.parametrize("at_once", [False, True])
@pytest.mark.parametrize("terms", [(PUSH, LINEAR), (LINEAR, PUSH), (PUSH, TOWARD)])
def test_affine_models_are_the_same_in_closed_form(terms, at_once):
    model = StepModel(terms=terms, clocks=("second",) * 2, at_once=at_once)
    c = np.array([3.0, 2.0] if TOWARD not in terms else [3.0, 5.0, 2.0])
    v, dt = np.linspace(-4, 9, 40), UNEVEN
    affine = model.as_affine(dt, 1 / 60, c, {})
    closed = affine.kept * v + sum(c[k] * one for k, one in affine.added.items())
    assert closed == pytest.approx(model.after(v, dt, 1 / 60, c))


def test_a_resistance_never_turns_a_motion_round_even_over_a_plane():
    for term, v in itertools.product((ROLLING, ROOT), (0.01 + 0.02j, -0.01j, 0j)):
        model = StepModel(terms=(term,), clocks=("second",))
        assert model.after(np.array([v]), np.array([1.0]), 1 / 60, np.array([5.0]))[0] == 0


def path(line, dt, v0=8.0):
    v = [v0]
    for h in dt[1:]:
        v.append(line(v[-1], h))
    return np.array(v)


@pytest.mark.parametrize("placed", [False, True])
@pytest.mark.parametrize("even", [False, True])
@pytest.mark.parametrize("name", ["push", "linear", "toward", "rolling", "quadratic", "root"])
def test_constants_come_back_from_whole_stretches(name, even, placed):
    term, line, constants = PLAIN[name]
    dt = np.full(40, 1 / 60) if even else UNEVEN
    v = path(line, dt)
    p = np.cumsum(v * dt)
    stretch = Stretch(v=v, dt=dt, p=p if placed else None)
    data = Observations.of([stretch, stretch], 1e-9, 1 / 60, rounding=1e-9)
    fit = Fitter(data, StepModel(terms=(term,), clocks=("second",))).fit()
    assert fit.c == pytest.approx(constants, rel=1e-5)
    assert fit.misfit < 1e-9


def test_errors_are_those_of_many_takes_with_noise():
    rng, found = np.random.default_rng(3), []
    v, model = path(PLAIN["toward"][1], UNEVEN, 0.0), StepModel(terms=(TOWARD,), clocks=("second",))
    for _ in range(300):
        stretch = Stretch(v=v + rng.normal(0, 0.01, 40), dt=UNEVEN)
        fit = Fitter(Observations.of([stretch], 0.01, 1 / 60, rounding=0.01), model).fit()
        found.append((*fit.c, *fit.stderr))
    goal, rate, goal_error, rate_error = np.array(found).T
    assert np.median(goal_error) == pytest.approx(np.std(goal), rel=0.2)
    assert np.median(rate_error) == pytest.approx(np.std(rate), rel=0.2)


def test_a_goal_that_moves_is_followed_by_its_gain():
    asked, v = np.sin(np.cumsum(UNEVEN) * 4), [0.0]
    for h, one in zip(UNEVEN[1:], asked[1:], strict=True):
        v.append(3 * one + (v[-1] - 3 * one) * np.exp(-6 * h))
    stretch = Stretch(v=np.array(v), dt=UNEVEN, inputs={"asked": asked})
    data = Observations.of([stretch], 1e-9, 1 / 60, rounding=1e-9)
    term = toward(("gain", "asked"))
    fit = Fitter(data, StepModel(terms=(term,), clocks=("second",))).fit()
    assert (fit.value("gain"), fit.value("rate")) == pytest.approx((3, 6), rel=1e-6)


@pytest.mark.parametrize(
    ("family", "name", "other"),
    [(CONSTANT_ACCELERATION, "push", FRICTION), (FRICTION, "linear", CONSTANT_ACCELERATION),
     (SMOOTHING, "toward", FRICTION)],
)  # fmt: skip
@pytest.mark.parametrize("noise", [1e-6, 3.0])
def test_the_simplest_family_is_told_and_none_where_noise_hides_it(family, name, other, noise):
    rng = np.random.default_rng(2)
    v = path(PLAIN[name][1], UNEVEN, 9.0) + rng.normal(0, noise, 40)
    data = Observations.of([Stretch(v=v, dt=UNEVEN)], noise, 1 / 60, rounding=noise)
    found = select(data, choices_of([family, other, DRIVE], data))
    assert found.law == (family.name if noise < 1 else "none")
    assert bool(found.reason) == (noise > 1)


@pytest.mark.parametrize("rounded", [False, True])
def test_a_push_a_decay_and_a_rolling_resistance_are_told_together(rounded):
    def line(v, h):
        return max((v + 12 * h) * np.exp(-0.8 * h) - 2 * h, 0)

    dt = np.random.default_rng(5).uniform(0.8, 1.2, 300) / 60
    v = path(line, dt, 0.5)
    v = np.round(v, 5) if rounded else v
    tiers = [[(PUSH,)], [(PUSH, LINEAR)], [(PUSH, QUADRATIC)]]
    noise = 1e-5 / 12**0.5 if rounded else 0.0
    found = select_forces([Stretch(v=v, dt=dt)], noise, 1 / 60, tiers)
    assert found is None or "rolling" not in found.values
    coasting = path(lambda v, h: max(v * np.exp(-0.8 * h) - 2 * h, 0), dt[:100], 20.0)
    coasting = np.round(coasting, 5) if rounded else coasting
    free = [[(ROLLING,), (LINEAR,), (QUADRATIC,)], [(ROLLING, LINEAR), (ROLLING, QUADRATIC)]]
    found = select_forces([Stretch(v=coasting, dt=dt[:100])], noise, 1 / 60, free)
    assert found.value("rolling") == pytest.approx(2, rel=0.02)
    assert found.value("rate") == pytest.approx(0.8, rel=0.02)


def test_models_have_every_clock_and_order_that_code_has():
    assert len(models_of((PUSH,), even=True)) == 1
    assert len(models_of((PUSH,), even=False)) == len(PUSH.clocks)
    pairs = models_of((PUSH, LINEAR), even=True)
    assert {one.terms for one in pairs} == {(PUSH, LINEAR), (LINEAR, PUSH)}
    assert any(one.at_once for one in models_of((PUSH, QUADRATIC), even=True))


def sqrt_loop(dt, *, root=6.0, by_frame=False, way=1 + 0j):
    v, p, t, rows = 0.0, 0j, 0.0, []
    for h in dt:
        push = float(t % 3 < 1.0 and t > 0.2)
        loss = root * v**0.5 * (1 / 60 if by_frame else h)
        v = min(v + 40 * h, 8) if push else max(v - loss, 0.0)
        p, t = p + v * h * way, t + h
        rows.append(
            (t, h, p.real, p.imag, v * way.real, v * way.imag, push * way.real, push * way.imag)
        )
    return dict(
        zip(
            ("t", "dt", "x", "z", "vx", "vz", "in_move_x", "in_move_y"),
            np.array(rows).T,
            strict=True,
        )
    )


@pytest.mark.parametrize("positions", [False, True])
@pytest.mark.parametrize("plane", [False, True])
@pytest.mark.parametrize("digits", [None, 3])
@pytest.mark.parametrize("jitter", [0.0, 0.15])
def test_a_family_of_one_file_and_one_line_is_read_from_every_kind_of_log(
    monkeypatch, jitter, digits, plane, positions
):
    monkeypatch.setattr("kickback.laws.families.table.FAMILIES", [*FAMILIES, ROOT_DRAG])
    for by_frame in (False, True):
        columns = sqrt_loop(
            steps(60, 12, jitter, 1), by_frame=by_frame, way=0.6 + 0.8j if plane else 1
        )
        if digits is not None:
            columns = {
                n: np.round(c, 5 if n in {"t", "dt"} else digits) for n, c in columns.items()
            }
        if not plane:
            columns = without(columns, "z", "vz", "in_move_y") | {"y": columns["x"] * 0}
        columns = without(columns, "vx", "vz") if positions else columns
        law = recover_laws(take_of(columns, view="3d" if plane else "side"))["coast"]
        assert law.law == "root-drag"
        assert law.clock == ("even" if not jitter else "frame" if by_frame else "second")
        frames = 60 * law.frame if by_frame else 1.0
        assert law.value("root") * frames == pytest.approx(6, rel=1e-3 if digits else 1e-6)


def random_walk(seed):
    rng = np.random.default_rng(seed)
    ends = np.cumsum(rng.uniform(0.4, 1.2, 14))
    pushes = [
        (a, b, int(rng.choice([1, -1]))) for a, b in itertools.pairwise(ends) if rng.random() < 0.7
    ]
    jumps = [(a, a + rng.uniform(0.1, 0.5), 1) for a in ends[::2]]
    own = {"top": rng.uniform(5, 10), "accel": rng.uniform(30, 80), "slow": rng.uniform(20, 60),
           "jump": rng.uniform(9, 14), "g": rng.uniform(30, 50), "cut": rng.choice([None, 0.5])}  # fmt: skip
    return moves(steps(60, 14, 0.15, seed), during(*pushes), during(*jumps), **own)


def changed(how, columns):
    if how == "mirrored":
        return {n: -c if n in {"x", "vx", "in_move_x"} else c for n, c in columns.items()}, 1
    if how == "moved":
        return {n: c + {"t": 77.25, "x": 1000, "y": -40}.get(n, 0) for n, c in columns.items()}, 1
    if how == "in other units":
        return {n: c * 32 if n in {"x", "y", "vx", "vy"} else c for n, c in columns.items()}, 32
    return columns, 1


@pytest.mark.parametrize("how", ["mirrored", "moved", "in other units"])
@pytest.mark.parametrize(
    "seed", [1, 2, pytest.param(3, marks=pytest.mark.long), pytest.param(4, marks=pytest.mark.long)]
)
def test_a_take_seen_otherwise_has_the_same_laws_and_metrics(how, seed):
    columns = random_walk(seed)
    other, size = changed(how, columns)
    one, two = (recover_laws(take_of(c)) for c in (columns, other))
    assert [(str(law.phase), law.law) for law in one] == [(str(law.phase), law.law) for law in two]
    for a, b in zip(one, two, strict=True):
        for x, y in zip(a.constants, b.constants, strict=True):
            scale = size if x.unit.dimension.length else 1
            assert y.value == pytest.approx(x.value * scale, rel=1e-5, abs=1e-7)
    first, second = (measure(take_of(c)) for c in (columns, other))
    for a, b in zip(first, second, strict=True):
        assert (a.value is None) == (b.value is None), a.metric
        if a.value is not None and not a.unit.dimension.length:
            assert b.value == pytest.approx(a.value, rel=1e-4, abs=1e-6), a.metric


def test_a_take_that_is_cut_in_two_tells_the_laws_of_the_whole():
    columns = play(
        steps(60, 9, 0.1, 2), during((0.3, 1.7, 1), (2.6, 3.6, -1), (5, 6.5, 1), (7, 8, -1))
    )
    whole = {str(law.phase): law for law in recover_laws(take_of(columns))}
    for part in (slice(0, 270), slice(270, None)):
        half = {n: c[part] for n, c in columns.items()}
        for law in recover_laws(take_of(half)):
            if str(law.phase) in {"speed-up", "coast"}:
                assert law.law == whole[str(law.phase)].law
                assert law.value("acceleration") == pytest.approx(
                    whole[str(law.phase)].value("acceleration"), rel=1e-9)  # fmt: skip


@pytest.mark.parametrize("law", ["constant", "exact", "first-order", "per-frame"])
def test_a_law_foretells_the_steps_that_it_was_read_from(law):
    take = take_of(play(steps(60, 6, 0.15, 4), during((0.3, 2, 1), (3, 4.5, -1)), law=law))
    left = residuals_of(analyse(take))
    assert left
    assert all(np.max(np.abs(one.v)) < 1e-9 for one in left)


def test_what_is_computed_once_is_kept_for_each_object_and_argument():
    class Thing:
        pass

    asked = []

    @computed_once
    def size(thing, by):
        asked.append(by)
        return len(asked)

    one, two = Thing(), Thing()
    assert (size(one, 1), size(one, 1), size(one, 2), size(two, 1)) == (1, 1, 2, 3)
    assert asked == [1, 2, 1]

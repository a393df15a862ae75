"""The built-in model against plain recurrences, and what each mistake does to it."""

import numpy as np
import pytest

from kickback.errors import InputError, UsageError
from kickback.kinds.foot.model.drills import drill_from_mapping
from kickback.kinds.foot.model.parameters import MISTAKES, PARAMETERS, checked_values
from kickback.kinds.foot.model.simulate import frame_steps, simulate, simulate_many
from truth.recurrence import THETA, during, play

SPANS = ((0.5, 2.0, 1), (3.0, 4.5, 1))
JUMP = (6.0, 6.6, 1)
DRILL = drill_from_mapping(
    {
        "length": 8.0,
        "input": [
            *({"at": a, "until": b, "move_x": v} for a, b, v in SPANS),
            {"at": JUMP[0], "until": JUMP[1], "jump": 1.0},
        ],
    },
    "test",
)


@pytest.mark.parametrize("jitter", [0.0, 0.3])
@pytest.mark.parametrize("order", THETA)
@pytest.mark.parametrize("law", ["constant", "smoothing"])
@pytest.mark.parametrize("rate", [20, 60, 240])
def test_the_model_is_the_plain_loop(rate, law, order, jitter):
    values = {"ground_movement": law, "integrator": order, "stop_rate": 9.0}
    take = simulate(values, DRILL, frame_rate=rate, jitter=jitter, seed=5)
    dt = frame_steps(rate, 8.0, jitter=jitter, seed=5)
    truth = play(
        dt,
        during(*SPANS),
        during(JUMP),
        theta=THETA[order],
        law={"constant": "constant", "smoothing": "exact"}[law],
    )
    for name in ("t", "dt", "x", "y", "vx", "vy", "touch_ground", "in_move_x", "in_jump"):
        # in the air the model keeps what little smoothing has left of the speed
        assert np.allclose(
            take.numbers(name), truth[name], atol=2e-5 if law == "smoothing" else 1e-9
        )


def test_friction_settles_where_drive_and_decay_balance():
    take = simulate({"ground_movement": "friction", "friction_rate": 6.0}, DRILL, frame_rate=60)
    keep = np.exp(-0.1)
    assert take.numbers("vx").max() == pytest.approx(40 / 60 * keep / (1 - keep), rel=1e-3)


def step_of(take, name, row=None):
    """Return the first change of a column, or the change into a row."""
    change = np.diff(take.numbers(name))
    return change[row if row is not None else np.flatnonzero(change)[0]]


def first_speed(take):
    return abs(step_of(take, "vx"))


def gravity_step(take):
    vy = take.numbers("vy")
    top = int(np.argmax(vy))
    return vy[top] - vy[top + 1]


def decay(take):
    v = take.numbers("vx")
    row = int(np.flatnonzero((v[1:] < v[:-1]) & (v[1:] > 0))[2])
    return -np.log(v[row + 1] / v[row])


def moved_per_speed(take):
    row = int(np.argmax(take.numbers("vx")))
    return step_of(take, "x", row + 2) / take.numbers("vx")[row + 2]


def takeoff(take):
    return take.numbers("vy").max() + gravity_step(take)


@pytest.mark.parametrize(
    ("mistake", "measure", "movement", "power"),
    [
        (None, first_speed, "constant", -1),
        ("acceleration-per-frame", first_speed, "constant", 0),
        ("dt-twice", first_speed, "constant", -2),
        ("all-in-frames", first_speed, "constant", 0),
        (None, gravity_step, "constant", -1),
        ("gravity-per-frame", gravity_step, "constant", 0),
        ("all-in-frames", gravity_step, "constant", 0),
        (None, moved_per_speed, "constant", -1),
        ("position-per-frame", moved_per_speed, "constant", 0),
        ("all-in-frames", moved_per_speed, "constant", 0),
        (None, takeoff, "constant", 0),
        ("impulse-times-dt", takeoff, "constant", -1),
        (None, decay, "smoothing", -1),
        ("factor-per-frame", decay, "smoothing", 0),
        ("factor-per-frame", decay, "friction", 0),
    ],
)
def test_each_mistake_changes_how_its_term_scales(mistake, measure, movement, power):
    values = {"ground_movement": movement} | ({"mistakes": mistake} if mistake else {})
    slow, fast = (measure(simulate(values, DRILL, frame_rate=rate)) for rate in (60, 120))
    assert np.log2(fast / slow) == pytest.approx(power, abs=1e-6)


def test_a_mistake_changes_nothing_at_the_rate_it_was_tuned_at():
    plain = simulate({}, DRILL, frame_rate=60)
    for mistake in set(MISTAKES) - {"first-order-factor", "integration-order", "dt-clamped"}:
        other = simulate({"mistakes": mistake}, DRILL, frame_rate=60)
        assert np.allclose(other.numbers("x"), plain.numbers("x")), mistake
        assert np.allclose(other.numbers("y"), plain.numbers("y")), mistake


def test_a_first_order_factor_is_one_minus_rate_times_dt():
    values = {"ground_movement": "smoothing", "mistakes": "first-order-factor", "stop_rate": 6.0}
    assert decay(simulate(values, DRILL, frame_rate=60)) == pytest.approx(-np.log(0.9))


def test_a_clamped_step_slows_the_game_below_its_rate():
    slow = simulate({"mistakes": "dt-clamped"}, DRILL, frame_rate=20)
    assert slow.numbers("dt").max() == pytest.approx(0.025)
    assert np.diff(slow.numbers("t")).max() == pytest.approx(0.05)


def test_integration_order_is_the_explicit_one():
    wrong = simulate({"mistakes": "integration-order"}, DRILL)
    explicit = simulate({"integrator": "explicit"}, DRILL)
    assert np.array_equal(wrong.numbers("y"), explicit.numbers("y"))


def ledge_jump(after, mistakes="", rate=60):
    """Run off a ledge and press jump ``after`` seconds later; whether it worked."""
    drill = drill_from_mapping(
        {
            "length": 4.0,
            "floor": [{"x": 0.0, "height": 0.0}, {"x": 8.0, "height": -30.0}],
            "input": [{"at": 0.0, "until": 3.0, "move_x": 1.0}],
        },
        "test",
    )
    gone = int(
        np.flatnonzero(np.diff(simulate({}, drill, frame_rate=rate).numbers("touch_ground")) < 0)[0]
    )
    at = (gone + 1) / rate + after
    press = drill_from_mapping({"input": [{"at": at, "until": at + 0.5, "jump": True}]}, "t").inputs
    full = type(drill)(name="ledge", length=4.0, floor=drill.floor, inputs=(*drill.inputs, *press))
    values = {"coyote_time": 0.1, "mistakes": mistakes}
    return bool(simulate(values, full, frame_rate=rate).numbers("vy").max() > 0)


@pytest.mark.parametrize(("after", "works"), [(0.05, True), (0.09, True), (0.15, False)])
def test_coyote_time_forgives_a_late_jump(after, works):
    assert ledge_jump(after) is works


def test_a_timer_in_frames_runs_out_sooner_at_a_higher_rate():
    assert ledge_jump(0.08, rate=144)
    assert not ledge_jump(0.08, mistakes="timer-in-frames", rate=144)


@pytest.mark.parametrize(("early", "works"), [(0.05, True), (0.2, False)])
def test_a_jump_buffer_keeps_an_early_press(early, works):
    landing = 1.0 + 2 * 13.0 / 40.0
    drill = drill_from_mapping(
        {
            "length": 4.0,
            "input": [
                {"at": 1.0, "until": 1.4, "jump": True},
                {"at": landing - early, "until": landing + 0.6, "jump": True},
            ],
        },
        "test",
    )
    take = simulate({"jump_buffer": 0.1}, drill, frame_rate=240)
    leaps = np.count_nonzero(np.diff(take.numbers("vy")) > 5)
    assert leaps == (4 if works else 2)  # a landing is an upward change too


def test_a_wall_stops_a_run():
    drill = drill_from_mapping(
        {
            "length": 3.0,
            "floor": [{"x": 0.0, "height": 0.0}, {"x": 4.0, "height": 2.0}],
            "input": [{"at": 0.0, "until": 3.0, "move_x": 1.0}],
        },
        "test",
    )
    take = simulate({}, drill)
    assert take.numbers("x").max() <= 4.0
    assert take.numbers("touch_side").max() == 1


def test_many_sets_at_once_are_the_same_as_one_by_one():
    sets = [
        {"run_speed": 5.0},
        {"jump_speed": 9.0, "ground_movement": "smoothing"},
        {"mistakes": "gravity-per-frame"},
    ]
    for values, take in zip(sets, simulate_many(sets, DRILL, frame_rate=144), strict=True):
        alone = simulate(values, DRILL, frame_rate=144)
        assert all(np.array_equal(take.columns[n], alone.columns[n]) for n in alone.columns)


def test_uneven_steps_come_from_the_seed():
    a, b, c = (frame_steps(60, 5, jitter=0.2, seed=seed) for seed in (1, 1, 2))
    assert np.array_equal(a, b)
    assert not np.array_equal(a, c)
    assert np.all((a > 0.8 / 60 - 1e-12) & (a < 1.2 / 60 + 1e-12))


@pytest.mark.parametrize(
    ("values", "sentence"),
    [
        ({"run_sped": 1.0}, "unknown parameter 'run_sped'; did you mean 'run_speed'"),
        ({"run_speed": 0.0}, "'run_speed' must be above 0, not 0"),
        ({"release_cut": -1.0}, "'release_cut' must be 0 or more, not -1"),
        ({"run_speed": "fast"}, "'run_speed' must be a number"),
        ({"run_speed": True}, "'run_speed' must be a number"),
        ({"integrator": 1.0}, "'integrator' must be a word"),
        ({"integrator": "exact"}, "must be one of semi-implicit, explicit, trapezoid"),
        ({"mistakes": "gravity-in-frames"}, "unknown mistake 'gravity-in-frames'"),
        ({"jump_speed": float("inf")}, "must be above 0"),
    ],
)
def test_parameters_that_make_no_sense(values, sentence):
    with pytest.raises(InputError, match=r"^p: ") as error:
        checked_values(values, "p")
    assert sentence in str(error.value)


def test_all_parameters_have_their_defaults():
    assert checked_values({}, "p") == {name: item.default for name, item in PARAMETERS.items()}


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        ({"lenght": 3}, "unknown key 'lenght'; did you mean 'length'?"),
        ({"input": []}, "at least one [[input]]"),
        (
            {"input": [{"at": 0, "until": 1, "move": 1}]},
            "unknown key 'move'; did you mean 'move_",
        ),
        ({"input": [{"at": 1, "until": 1, "jump": 1}]}, "must be later than 'at'"),
        ({"input": [{"at": 0, "until": 1}]}, "needs 'at', 'until' and an input"),
        ({"input": [{"at": 0, "until": 1, "move_x": 2}]}, "must lie between -1 and 1"),
        ({"input": [{"at": 0, "until": 1, "jump": -1}]}, "must lie between 0 and 1"),
        ({"input": [{"at": "soon", "until": 1, "jump": 1}]}, "'at' must be a number"),
        ({"input": ["jump"]}, "must be a table"),
        ({"length": -1}, "'length' must be above 0"),
        ({"floor": 3}, "'floor' must be a list"),
        ({"floor": [{"x": 0}]}, "'floor' must be a list"),
        ({"floor": [{"x": 1, "height": 0}, {"x": 0, "height": 1}]}, "must grow"),
    ],
)
def test_drills_that_make_no_sense(change, sentence):
    plain = {"input": [{"at": 0, "until": 1, "jump": True}]}
    with pytest.raises(InputError) as error:
        drill_from_mapping(plain | change, "d.toml")
    assert sentence in str(error.value)
    assert str(error.value).startswith("d.toml")


@pytest.mark.parametrize(("rate", "jitter"), [(0, 0), (-60, 0), (1e6, 0), (60, 1.0), (60, -0.1)])
def test_rates_that_make_no_sense(rate, jitter):
    with pytest.raises(UsageError, match="must lie between"):
        frame_steps(rate, 1.0, jitter=jitter)

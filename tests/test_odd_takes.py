"""Takes that make little sense: whatever is in them, answers are finite or have a reason."""

import numpy as np
import pytest

from conftest import quick, some, take_of
from kickback.kinds.examining import examine
from kickback.kinds.foot.events import events_of
from kickback.kinds.foot.phases import foot_phases
from kickback.kinds.measuring import measure
from kickback.kinds.recovering import recover_laws
from kickback.kinds.table import analyse
from kickback.show.figures.motion import motion_figure
from kickback.workflows.plotting import plot_data

SIGNALS = (
    lambda rng, n: np.zeros(n),
    lambda rng, n: rng.normal(size=n),
    lambda rng, n: np.cumsum(rng.normal(size=n)),
    lambda rng, n: np.round(np.cumsum(rng.normal(size=n))),
    lambda rng, n: np.sin(np.arange(n) / 5) * rng.uniform(0.1, 100),
    lambda rng, n: np.arange(n) * rng.uniform(-3, 3),
    lambda rng, n: np.full(n, 1e9),
)


def odd_take(seed):
    rng = np.random.default_rng(seed)
    n = int(rng.choice([2, 3, 4, 5, 8, 20, 60, 200]))
    steps = rng.uniform(0.001, 0.05, n) if rng.random() < 0.5 else np.full(n, 1 / 60)
    columns = {"t": np.cumsum(steps)}
    for name, share in (("x", 0.9), ("y", 0.9), ("vx", 0.4), ("vy", 0.4)):
        if rng.random() < share:
            columns[name] = SIGNALS[rng.integers(len(SIGNALS))](rng, n)
    if not {"x", "y"} & set(columns):
        columns["y"] = np.zeros(n)
    for name in ("touch_ground", "in_jump", "in_brake"):
        if rng.random() < 0.6:
            columns[name] = (rng.random(n) < rng.random()).astype(float)
    if rng.random() < 0.6:
        columns["in_move_x"] = np.repeat(rng.choice([-1.0, 0.0, 0.5, 1.0], n), 10)[:n]
    for name in ("in_dash", "touch_side", "touch_above"):
        if rng.random() < 0.3:
            columns[name] = (rng.random(n) < rng.random()).astype(float)
    return take_of(columns) if seed % 2 else odd_plane(columns, rng, seed)


def odd_plane(columns, rng, seed):
    """Return the take with a second ground axis, from above or in three dimensions."""
    n = len(columns["t"])
    columns |= {name: SIGNALS[rng.integers(len(SIGNALS))](rng, n) for name in ("x", "z")}
    if rng.random() < 0.6:
        columns["in_move_y"] = np.repeat(rng.choice([-1.0, 0.0, 0.3, 1.0], n), 7)[:n]
    for name in ("vx", "vz", "camera_heading", "platform_vx"):
        if rng.random() < 0.4:
            columns[name] = SIGNALS[rng.integers(len(SIGNALS))](rng, n)
    return take_of(columns, view="top" if seed % 4 else "3d", up="+z" if seed % 4 else "+y")


@quick(3)
@pytest.mark.parametrize(
    "seeds",
    some([range(k, k + 50) for k in range(0, 400, 50)], *(range(k, k + 50) for k in (0, 150, 300))),
    ids=str,
)
def test_odd_takes_are_taken_calmly(seeds):
    for seed in seeds:
        take = odd_take(seed)
        for row in measure(take):
            if row.value is None:
                assert row.reason, (seed, row.metric)
            else:
                assert np.isfinite(row.value), (seed, row.metric)
                assert 0 <= row.resolution < np.inf, (seed, row.metric)
        recover_laws(take)
        examine(take)
        motion = analyse(take).whole
        assert all(0 <= event.frame < len(take) for event in events_of(motion))
        for track in ("travel", "vertical"):
            frames = [
                row
                for p in foot_phases(motion)
                if p.track == track
                for row in range(p.start, p.stop)
            ]
            assert frames in ([], list(range(len(take))))


@quick(2)
@pytest.mark.parametrize("seed", range(4))
def test_odd_takes_can_be_drawn(seed):
    motion_figure(
        [plot_data(analyse(odd_take(seed))), plot_data(analyse(odd_take(seed + 1)))]
    ).canvas.draw()

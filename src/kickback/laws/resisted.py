"""Which forces a speed shows: constant, linear and quadratic resistances beside a push.

Each form is first held against the steps, one by one. Where speeds are exact that settles it;
where they are rounded the forms that leave least are fitted to whole stretches, each from a
start of its own, so that a rounding counts once and not in every step.
"""

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from kickback.laws.forces import TERMS, Form, Speeds, forms_of
from kickback.laws.least_squares import curved, linear
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray

__all__ = ["Resisted", "Run", "resisted"]

_EXACT = 1e-9
"""Share of the highest speed that arithmetic leaves of a step."""

_BEST = 6
"""Forms of equally many terms that are fitted to whole stretches: those that leave the least."""

_LONGEST, _MOST = 600, 8
"""Frames of a stretch, and stretches, that settle a rule."""

_SURE = 4.0
"""Standard errors of chi squared within which a form explains what is rounded."""

_TELLS = 9.0
"""Chi squared by which one form must be better than another with as many terms."""

_AWAY, _TINIEST = 1e3, 1e-300
"""Times the largest place or speed from which a fit runs away, and what no speed is below."""

_ROUNDS = 30
"""Steps of a fit at most."""

_NUDGE = 1e-5
"""Share of a constant by which it is moved to see what that does."""

_STILL = 1e-2
"""Share of its standard error within which a constant no longer moves."""

_NEVER = 3.0
"""Times its noise that a step may miss, beyond which whole stretches need not be asked."""


class Run(Record, frozen=True, kw_only=True):
    """A stretch under one rule, arrays of shape (k,): the first row is where it starts.

    ``v``: speeds, turned so that it goes toward plus; ``p``: places where these are the data and
    not the speeds, else None; ``dt``: the step into each row, s. ``turned``: what turns a speed
    before the step into each row: ``v·turned[0] + turned[1]``. Over a plane speeds and places are
    complex.
    """

    v: Speeds
    dt: FloatArray
    p: Speeds | None = None
    turned: tuple[FloatArray, FloatArray] | None = None


class Resisted(Record, frozen=True, kw_only=True):
    """What runs show: a form with its constants and standard errors, in the order of its terms.

    A clock of the form is ``even`` where it cannot be told. ``chi`` is what it leaves over the
    noise, squared and summed; ``alike``: other terms that do as well. ``fitted``: the form and
    constants that the steps have, where the usual ones are told instead.
    """

    form: Form
    values: FloatArray
    stderr: FloatArray
    misfit: float
    chi: float
    steps: int
    alike: tuple[str, ...] = ()
    fitted: tuple[Form, FloatArray] | None = None

    def ahead(self, v: float, dt: float) -> float:
        """Return the speed after a step from ``v``, by the form as it was fitted."""
        form, values = self.fitted or (self.form, self.values)
        return float(form.ahead(np.array([v]), np.array([dt]), dt, values)[0])

    def value(self, term: str) -> float:
        """Return the constant of a term; 0 without it."""
        known = dict(zip(self.form.terms, self.values.tolist(), strict=True))
        return float(known.get(term, 0.0))


class _Data:
    """Runs as a table: a row a run, padded at the end; ``mask`` says what is there."""

    def __init__(self, runs: Sequence[Run], noise: float, usual: float, toward: complex) -> None:
        runs = sorted(runs, key=lambda run: -len(run.v))[:_MOST]
        longest = min(max(len(run.v) for run in runs), _LONGEST)
        shape = (len(runs), longest)
        kind = np.result_type(runs[0].v)
        self.v, self.dt = np.zeros(shape, dtype=kind), np.full(shape, usual)
        self.p, self.mask = np.zeros(shape, dtype=kind), np.zeros(shape, dtype=bool)
        self.ways = (1.0, 1j) if np.iscomplexobj(self.v) else (1.0,)
        self.placed = runs[0].p is not None
        self.scale, self.shift = np.ones(shape), np.zeros(shape)
        for row, run in enumerate(runs):
            k = min(len(run.v), longest)
            self.v[row, :k], self.dt[row, :k] = run.v[:k], run.dt[:k]
            self.mask[row, :k] = True
            if run.p is not None:
                self.p[row, :k] = run.p[:k] - run.p[0]
            if run.turned is not None:
                self.scale[row, :k], self.shift[row, :k] = (one[:k] for one in run.turned)
        self.noise, self.usual, self.toward = noise, usual, toward
        into = self.mask[:, 1:]
        turned = self.v[:, :-1] * self.scale[:, 1:] + self.shift[:, 1:]
        self.v0, self.v1 = turned[into], self.v[:, 1:][into]
        self.steps = self.dt[:, 1:][into]
        self.size = float(np.max(np.abs(self.v), initial=0.0))
        self.reach = float(np.max(np.abs(self.p), initial=0.0)) if self.placed else self.size


def resisted(
    runs: Sequence[Run],
    noise: float,
    usual: float,
    tiers: Sequence[Sequence[tuple[str, ...]]],
    *,
    even: bool,
    toward: complex = 1.0,
) -> Resisted | None:
    """Return the simplest of some sets of terms that explains runs; None where none does.

    ``noise``: the standard error of a speed, or of a place where runs have these; 0 where they
    are exact. ``tiers``: sets of terms, the simplest first. ``toward``: where the push goes.
    """
    data = _Data(runs, noise, usual, toward)
    for tier in tiers:
        tried = [one for terms in tier for one in _tried(data, terms, even=even)]
        good = [one for one in tried if _explains(data, one)]
        if good:
            least = min(one.chi for one in good)
            alike = [one for one in good if one.chi < least + _TELLS]
            return _with_doubts(alike[0], alike, rounded=bool(noise))  # in the order of the tier
    return None


def _tried(data: _Data, terms: tuple[str, ...], *, even: bool) -> list[Resisted]:
    """Return the forms of some terms that leave least, fitted as well as the data allow."""
    forms = forms_of(terms, even=even, toward=data.toward)
    fits = [fit for form in forms if (fit := _stepwise(data, form))]
    fits.sort(key=lambda fit: fit.misfit)  # equal ones stay in the order of the forms
    fits = fits[: _BEST * (3 if data.placed else 1)]  # differences of places rank them badly
    if not data.noise:
        return fits
    likely = [fit for fit in fits if data.placed or fit.misfit <= _NEVER * 2**0.5 * data.noise]
    return [one for fit in likely if (one := _along(data, fit)) is not None]


def _stepwise(data: _Data, form: Form) -> Resisted | None:
    """Fit a form to the steps, one by one."""
    slopes = form.slopes(data.v0, data.steps, data.usual)
    start = linear(_parts(slopes), _parts(data.v1 - data.v0))

    def model(c: FloatArray) -> FloatArray:
        return _parts(form.ahead(data.v0, data.steps, data.usual, c))

    def bends(c: FloatArray) -> FloatArray:
        return _differences(model, c, _scales(c))

    done = curved(model, bends, start, _parts(data.v1))
    if not done.settled or not np.all(np.isfinite(done.found)):
        return None
    return Resisted(
        form=form,
        values=done.found,
        stderr=done.stderr,
        misfit=done.misfit,
        chi=done.rss / (_EXACT * data.size) ** 2,
        steps=len(data.v1),
    )


def _parts(values: Speeds) -> FloatArray:
    """Return complex values as their real parts, then their imaginary ones; others as they are."""
    if not np.iscomplexobj(values):
        return np.asarray(values)
    return np.concatenate((values.real, values.imag))


def _scales(c: FloatArray) -> FloatArray:
    return np.maximum(np.abs(c), 1e-3 * float(np.max(np.abs(c), initial=0.0))) + 1e-9


def _differences(
    model: Callable[[FloatArray], FloatArray], c: FloatArray, scale: FloatArray
) -> FloatArray:
    """Return the slopes of a model by each constant, last axis, by central differences."""
    columns = []
    for at in range(len(c)):
        by = np.zeros(len(c))
        by[at] = _NUDGE * scale[at]
        columns.append((model(c + by) - model(c - by)) / (2 * by[at]))
    return np.stack(columns, axis=-1)


class _Look(NamedTuple):
    """Stretches under some constants from some starts: what is left, and how to go on.

    ``step``: to the constants and the starts that the slopes lead to; ``error``: standard errors.
    """

    constants: FloatArray
    starts: Speeds
    rss: float
    step: FloatArray
    error: FloatArray
    many: int


def _look(data: _Data, form: Form, c: FloatArray, first: Speeds) -> _Look | None:
    """Look at stretches under constants; None where the speeds run away.

    What constants and starts do to a stretch is seen by moving them, all in one pass.
    """
    many, rows, seen = len(c), len(first), data.mask
    by, push = _NUDGE * _scales(c), _NUDGE * max(data.size, _TINIEST)
    alone = np.repeat(c[None], len(data.ways), axis=0)
    trials = np.concatenate((c[None], c[None] + np.diag(by), alone))
    starts = np.repeat(first[None], len(trials), axis=0)
    for k, way in enumerate(data.ways, 1 + many):
        starts[k] += push * way
    paths = _paths(data, form, trials, starts)[:, seen]
    if not np.all(np.isfinite(paths)) or np.max(np.abs(paths)) > _AWAY * data.reach:
        return None
    left = _parts((data.p if data.placed else data.v)[seen] - paths[0])
    which = np.broadcast_to(np.arange(rows)[:, None], seen.shape)[seen]
    own = (which[:, None] == np.arange(rows)).astype(np.float64)
    slopes = [_parts(paths[1 + k] - paths[0])[:, None] / by[k] for k in range(many)]
    by_starts = [
        _parts(own * ((paths[k] - paths[0]) / push)[:, None]) for k in range(1 + many, len(trials))
    ]
    design = np.concatenate((*slopes, *by_starts), axis=1)
    if data.placed:  # the place that a stretch starts at is free
        places = [_parts((own * way).astype(data.p.dtype)) for way in data.ways]
        design = np.concatenate((design, *places), axis=1)
        at_all = np.concatenate(places, axis=1)
        left = left - at_all @ ((at_all.T @ left) / np.tile(own.sum(axis=0), len(places)))
    spread = np.linalg.pinv(design.T @ design)[:many, :many]
    error = np.sqrt(np.maximum(np.diag(spread), 0.0)) * data.noise
    return _Look(c, first, float(left @ left), linear(design, left), error, len(left))


def _along(data: _Data, start: Resisted) -> Resisted | None:
    """Fit a form to whole stretches by Gauss and Newton's method, with shorter steps where needed.

    None where no constants come near.
    """
    many, rows = len(start.values), data.v.shape[0]
    best, share = _look(data, start.form, start.values, data.v[:, 0]), 1.0
    if best is None:
        return None
    for _ in range(_ROUNDS):
        if np.all(np.abs(share * best.step[:many]) <= _STILL * best.error):
            break
        c = best.constants + share * best.step[:many]
        moves = share * best.step[many : many + rows * len(data.ways)].reshape(-1, rows)
        first = best.starts + sum(way * move for way, move in zip(data.ways, moves, strict=True))
        found = _look(data, start.form, c, first)
        better = found is not None and found.rss < best.rss
        best, share = (found, 1.0) if found is not None and better else (best, share / 4)
    return Resisted(
        form=start.form,
        values=best.constants,
        stderr=best.error,
        misfit=float(np.sqrt(best.rss / best.many)),
        chi=best.rss / data.noise**2,
        steps=best.many,
    )


def _paths(data: _Data, form: Form, trials: FloatArray, starts: Speeds) -> Speeds:
    """Return speeds or places, shape (trials, runs, rows), from starts, shape (trials, runs)."""
    v, dt = starts, data.dt
    c = trials[:, None, :]
    every = [v]
    with np.errstate(over="ignore", invalid="ignore"):
        for k in range(1, dt.shape[1]):
            v = form.ahead(v * data.scale[:, k] + data.shift[:, k], dt[None, :, k], data.usual, c)
            every.append(v)
        speeds = np.stack(every, axis=-1)
        if not data.placed:
            return speeds
        ways = speeds * dt[None]
        ways[..., 0] = 0.0
        return np.asarray(np.cumsum(ways, axis=-1))


def _explains(data: _Data, one: Resisted) -> bool:
    """Whether a form leaves no more than the noise, and its constants are some."""
    if np.any(one.values <= 0):
        return False  # a push that brakes, or a resistance that drives
    if not data.noise:
        return one.misfit <= _EXACT * data.size * 2
    if np.any(one.stderr > 0.3 * one.values):
        return False
    starts = data.v.shape[0] * (1 + data.placed) * len(data.ways)
    free = max(1, one.steps - len(one.values) - starts)
    return bool(one.chi <= free + _SURE * float(np.sqrt(2 * free)))


def _with_doubts(best: Resisted, alike: Sequence[Resisted], *, rounded: bool) -> Resisted:
    """Return the best with what its clocks, its order and its terms may be as well.

    Of forms that do as well the one is told whose constants belong to the second, in the usual
    order; constants that another order has are within its errors.
    """
    kinds = set(best.form.terms)
    own = [one for one in alike if set(one.form.terms) == kinds]
    terms = [term for term in TERMS if term in kinds]
    told = min(own, key=lambda one: (*_unusual(one, terms), one.chi))
    same = [one for one in own if _unusual(one, terms)[0] == _unusual(told, terms)[0]]
    values = np.stack([_in_order(one, one.values, terms) for one in same])
    error, found = (_in_order(told, one, terms) for one in (told.stderr, told.values))
    clocks = tuple(_clock(term, told, own) for term in terms)
    return replace(
        told,
        form=replace(told.form, terms=tuple(terms), clocks=clocks),
        values=found,
        stderr=np.hypot(error, np.max(np.abs(values - found), axis=0)),
        fitted=(told.form, told.values),
        alike=_others(alike, kinds) if rounded else (),
    )


def _others(alike: Sequence[Resisted], kinds: set[str]) -> tuple[str, ...]:
    """Return the other sets of terms of forms that do as well, in words."""
    others = [one.form.terms for one in alike if set(one.form.terms) != kinds]
    return tuple(sorted({" and ".join(sorted(terms)) for terms in others}))


def _in_order(one: Resisted, values: FloatArray, terms: Sequence[str]) -> FloatArray:
    """Return numbers of a form's terms in another order of these."""
    return values[[one.form.terms.index(term) for term in terms]]


def _unusual(one: Resisted, terms: Sequence[str]) -> tuple[list[bool], list[int]]:
    """Return of which constants the clock is another than the second, and how terms are ordered."""
    order = [-1] if one.form.at_once else [TERMS.index(term) for term in one.form.terms]
    return [one.form.clock(term) == "frame" for term in terms], order


def _clock(term: str, told: Resisted, own: Sequence[Resisted]) -> str:
    clock = told.form.clock(term)
    return clock if {one.form.clock(term) for one in own} <= {clock, "first-order"} else "even"

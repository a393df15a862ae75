"""A turning that goes toward what the wheel asks for, fitted to rounded headings.

``ω1 = g·a + (ω0 − g·a)·f`` and ``h1 = h0 + ω1·dt``: for a rate in ``f`` the headings of a press
are linear in the gain ``g``, in the turning and in the heading that it begins with. So the rate
alone is searched for, and a rounding counts once and not in every difference.
"""

from collections.abc import Sequence

import numpy as np

from kickback.laws.least_squares import linear
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray

__all__ = ["Press", "Response", "fit_response"]

_PLACES = 40
"""Rates that a search begins from."""

_FASTEST, _SLOWEST = 6.0, 0.01
"""What a rate times the usual frame lies between: at once, and hardly at all."""

_SURE = 4.0
"""Standard errors of chi squared within which a response explains headings."""

_TELLS = 9.0
"""Chi squared by which one clock must be better than another."""

_NUDGE = 1e-3
"""Share of a rate by which it is moved to see what that changes."""

_LONGEST, _MOST = 900, 6
"""Frames of a press, and presses, that settle a response."""


class Press(Record, frozen=True, kw_only=True):
    """Frames around a press, arrays of shape (k,): headings, degrees, steps, s, what is asked."""

    heading: FloatArray
    dt: FloatArray
    asked: FloatArray


class Response(Record, frozen=True, kw_only=True):
    """A gain and a rate, 1/s, with their standard errors, and the clock of the rate."""

    gain: float
    gain_error: float
    rate: float
    rate_error: float
    clock: str
    chi: float
    frames: int
    misfit: float


def _kept(clock: str, rates: FloatArray, dt: FloatArray, usual: float) -> FloatArray:
    """Return what is left of a turning's way after steps, shape (steps, rates)."""
    step = np.full(len(dt), usual) if clock == "frame" else dt
    by = step[:, None] * rates[None, :]
    return np.maximum(1 - by, 0.0) if clock == "first-order" else np.asarray(np.exp(-by))


def _columns(press: Press, kept: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return what a heading goes with the gain and with the first turning by, (steps, rates)."""
    many = kept.shape[1]
    by_gain, by_first = np.zeros(many), np.ones(many)
    gains, firsts = np.zeros_like(kept), np.zeros_like(kept)
    for k in range(1, len(press.dt)):
        by_gain = press.asked[k] + (by_gain - press.asked[k]) * kept[k]
        by_first = by_first * kept[k]
        gains[k] = gains[k - 1] + by_gain * press.dt[k]
        firsts[k] = firsts[k - 1] + by_first * press.dt[k]
    return gains, firsts


class _Search:
    def __init__(self, presses: Sequence[Press], sigma: float, usual: float) -> None:
        longest = sorted(presses, key=lambda press: -len(press.dt))[:_MOST]
        self._presses = [
            Press(heading=one.heading[:_LONGEST], dt=one.dt[:_LONGEST], asked=one.asked[:_LONGEST])
            for one in longest
        ]
        self._sigma, self.usual = sigma, usual
        self.n = sum(len(press.dt) for press in self._presses)
        self._y = np.concatenate([press.heading - press.heading[0] for press in self._presses])
        which = np.repeat(np.arange(len(self._presses)), [len(one.dt) for one in self._presses])
        self._own = (which[:, None] == np.arange(len(self._presses))).astype(np.float64)

    def designs(self, clock: str, rates: FloatArray) -> list[FloatArray]:
        """Return the linear design of each rate: the gain first, then each press's own starts."""
        parts = [
            _columns(press, _kept(clock, rates, press.dt, self.usual)) for press in self._presses
        ]
        gains = np.concatenate([gain for gain, _ in parts])
        firsts = np.concatenate([first for _, first in parts])
        return [
            np.column_stack((gains[:, k], self._own * firsts[:, k, None], self._own))
            for k in range(len(rates))
        ]

    def chi(self, design: FloatArray) -> float:
        left = self._y - design @ linear(design, self._y)
        return float(left @ left) / self._sigma**2

    def best(self, clock: str) -> Response | None:
        """Return the best rate of a clock; None where it is at either end of the search."""
        from scipy.optimize import minimize_scalar

        tried = np.geomspace(_SLOWEST, _FASTEST, _PLACES) / self.usual
        chis = [self.chi(design) for design in self.designs(clock, tried)]
        at = int(np.argmin(chis))
        if at in {0, _PLACES - 1}:
            return None

        def miss(log_rate: float) -> float:
            return self.chi(self.designs(clock, np.exp(np.array([log_rate])))[0])

        ends = (float(np.log(tried[at - 1])), float(np.log(tried[at + 1])))
        found = minimize_scalar(miss, bounds=ends, method="bounded", options={"xatol": 1e-9})
        rate = float(np.exp(found.x))
        near, here = self.designs(clock, rate * np.array([1 + _NUDGE, 1.0]))
        values = linear(here, self._y)
        slope = (near @ values - here @ values) / (_NUDGE * rate)
        whole = np.column_stack((slope, here))
        spread = np.diag(np.linalg.pinv(whole.T @ whole))
        chi = self.chi(here)
        return Response(
            gain=float(values[0]),
            gain_error=float(np.sqrt(spread[1])) * self._sigma,
            rate=rate,
            rate_error=float(np.sqrt(spread[0])) * self._sigma,
            clock=clock,
            chi=chi,
            frames=self.n,
            misfit=self._sigma * float(np.sqrt(chi / self.n)),
        )

    def explains(self, one: Response) -> bool:
        free = max(1, self.n - 2 - 2 * len(self._presses))
        return one.chi <= free + _SURE * float(np.sqrt(2 * free))


def fit_response(
    presses: Sequence[Press], sigma: float, usual: float, *, even: bool
) -> Response | None:
    """Return the response that explains headings whose standard error is ``sigma``, degrees.

    ``even`` where its clock cannot be told; None where no response explains them.
    """
    search = _Search(presses, sigma, usual)
    clocks = ("second",) if even else ("second", "frame", "first-order")
    good = [
        one for clock in clocks if (one := search.best(clock)) is not None and search.explains(one)
    ]
    if not good:
        return None
    first, *others = sorted(good, key=lambda one: one.chi)
    alike = [one for one in others if one.chi < first.chi + _TELLS]
    if even or alike:
        told = min((first, *alike), key=lambda one: clocks.index(one.clock))
        spread = max((abs(one.rate - told.rate) for one in (first, *alike)), default=0.0)
        return replace(told, clock="even", rate_error=float(np.hypot(told.rate_error, spread)))
    return first

"""What no known cause moves."""

from kickback.causes.cause import CauseKind

__all__ = ["ADVICE", "UNEXPLAINED"]

ADVICE = "compare 'kickback law' of the slowest and the quickest take, phase by phase"

UNEXPLAINED = CauseKind(
    name="unexplained",
    about="no known cause moves it",
    tell=lambda _: None,  # told from the metrics, once all others are
    cure=lambda _cause, _bench: ADVICE,
)

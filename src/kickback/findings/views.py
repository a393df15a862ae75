"""A view that a take can hardly have: for every kind that looks at how its subject moves."""

from kickback.findings.finding import FindingKind

__all__ = ["VIEW_UNLIKELY"]

VIEW_UNLIKELY = FindingKind(
    code="view-unlikely",
    severity="warning",
    advice='if it is seen from above, say view = "top" in the header or the mapping',
    explains=("fell-through", "no-fall", "constant-fall", "straight-jump", "up-flipped"),
)

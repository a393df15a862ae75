"""Ratios of runs measured side by side; absolute times on shared machines say little."""

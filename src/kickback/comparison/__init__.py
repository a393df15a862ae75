"""Comparing parameter sets: pairing, budgets and verdicts."""

"""Budgets, targets, and verdicts on what changed."""

"""Families of laws: one object each."""

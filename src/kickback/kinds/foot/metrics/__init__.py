"""Metrics of a character on foot, a module a group."""

"""Dependence on the frame rate: groups of takes, and metrics over the rate."""

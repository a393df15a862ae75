"""Wishes to parameters: exact for a model's order of integration and frame rate."""

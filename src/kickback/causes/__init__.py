"""Causes of a dependence on the frame rate: one object each."""

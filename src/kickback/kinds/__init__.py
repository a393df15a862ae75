"""Kinds of subjects: what is particular to each, behind one shape."""

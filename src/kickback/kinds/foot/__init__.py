"""A character on foot, seen from the side."""

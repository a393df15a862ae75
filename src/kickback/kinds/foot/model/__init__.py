"""A built-in character on foot, and the drills that it plays."""

"""A character on foot as parameters of the built-in model, and held against it."""

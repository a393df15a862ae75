"""A game's movement as the parameters of a built-in model, held against its takes."""

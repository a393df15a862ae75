"""Movement models with known parameters: they supply takes whose truth is known."""

"""A projectile: what is thrown, lobbed or fired."""

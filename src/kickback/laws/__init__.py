"""The update rule behind a motion: families of laws, fitting, and what follows from them."""

"""A vehicle: what drives, steers, slides and tilts."""

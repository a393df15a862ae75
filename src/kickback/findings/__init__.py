"""Whether a take can carry the conclusions drawn from it: what any kind of subject may show."""

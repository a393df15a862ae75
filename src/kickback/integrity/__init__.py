"""Whether a take can carry the conclusions drawn from it: findings, each with what to do."""

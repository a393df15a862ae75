"""From columns to motion, for any kind of subject: grids, the clock, pieces, tracks."""

"""Figures, drawn with Matplotlib, which stands nowhere else."""

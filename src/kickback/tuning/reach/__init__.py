"""What a parameter set can clear, and how hard that is: gaps and steps, levels, envelopes."""

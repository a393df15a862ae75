"""The catalogue of metrics: one function and one entry each."""

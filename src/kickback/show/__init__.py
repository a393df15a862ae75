"""Finished results in, text or figures out; computes nothing about motion."""

"""Receiving a running game's frames and saving takes."""

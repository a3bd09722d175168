"""Watts, knobs and levels through one path."""

"""Corners, depth, groups and proposals: the system as a whole."""

"""Uncertainty of instruments, and the comparison of a reading with a target."""

"""Meters: the seam that the run reads through, and a simulated one behind it."""

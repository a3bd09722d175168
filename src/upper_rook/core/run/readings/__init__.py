"""Bench records: points, circumstances, readings, captures, and the keys of steps they belong to."""

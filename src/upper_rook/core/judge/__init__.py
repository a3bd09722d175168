"""Verdicts on a wave, a sweep, noise or volume steps."""

"""Waves, tones, filters and equalisers as mathematics."""

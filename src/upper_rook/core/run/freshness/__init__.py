"""Dependencies of a reading, and the effect of their changes on it."""

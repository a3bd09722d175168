"""The parts of the shop: what their makers state, and what was measured of them in jobs."""

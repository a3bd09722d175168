"""Visits: when a vehicle came back, what may have moved since, and the few readings that would tell."""

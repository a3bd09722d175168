"""The job itself, pure: no files, clock, network, database or framework."""

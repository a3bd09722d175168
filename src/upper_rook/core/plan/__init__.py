"""What to set, and why."""

"""What a reading depends on, and what a change of it does to the reading."""

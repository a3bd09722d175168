"""A simulated bench: source, amplifier, load and meter that behave, for demo, practice and tests only."""

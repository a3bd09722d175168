"""What does not fit, by cause."""

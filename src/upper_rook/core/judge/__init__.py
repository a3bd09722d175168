"""What a wave, a sweep, noise or a ladder of readings says."""

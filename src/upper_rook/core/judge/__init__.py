"""What a wave, a sweep, noise or volume steps say."""

"""What an instrument can be trusted for, and a reading held against a target."""

"""The run: points, records, what they rest on, and where to go on."""

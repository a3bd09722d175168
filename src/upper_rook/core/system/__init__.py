"""The parts, the paths that join them, and the job's sheet."""

"""Source sheets: what a source really delivers, kept apart from any job."""

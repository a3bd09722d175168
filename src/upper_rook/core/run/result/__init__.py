"""How far a run has come, and the sheet that is handed over."""

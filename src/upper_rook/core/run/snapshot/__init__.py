"""The sheet, the plan and the readings of one moment: all that a step is worked out from."""

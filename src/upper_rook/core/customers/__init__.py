"""People whose vehicles the shop works on, and when those come and go."""

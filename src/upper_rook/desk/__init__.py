"""Acts of people: one function for each, one transaction each."""

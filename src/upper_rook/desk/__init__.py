"""What can be done: one function for each act, one transaction each."""

"""Reading what was lifted."""

"""Who did what, for the head coach."""

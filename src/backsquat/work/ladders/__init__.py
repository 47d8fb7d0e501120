"""Gates and ladders."""

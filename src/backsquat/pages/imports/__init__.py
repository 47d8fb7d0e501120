"""A list of athletes taken in."""

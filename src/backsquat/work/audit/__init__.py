"""Who did what, in a log that only grows."""

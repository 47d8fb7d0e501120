"""The one record of a set."""

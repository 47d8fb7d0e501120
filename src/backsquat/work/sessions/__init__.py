"""A block's sessions and their days."""

"""Wording that more than one page uses."""

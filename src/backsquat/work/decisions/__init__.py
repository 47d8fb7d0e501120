"""Decisions after an exposure."""

"""Decisions after sessions, waiting and taken."""

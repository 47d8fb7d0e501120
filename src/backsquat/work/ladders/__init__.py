"""Readiness checks and ladders."""

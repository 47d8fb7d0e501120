"""Milestones and matches."""

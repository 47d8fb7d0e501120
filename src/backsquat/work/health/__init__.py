"""Limits, absences, stops, notes, check-ins."""

"""Stops, limits, absences and health notes: what the physio needs in two minutes."""

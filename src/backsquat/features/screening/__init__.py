"""Screens: the battery, its entry down the squad, findings, gates and ladders."""

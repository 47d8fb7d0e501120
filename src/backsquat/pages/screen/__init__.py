"""Screens: the battery, down the squad or for one athlete."""

"""The floor: who is up, what is on the bar, logging sets."""

"""The floor's view of a session."""

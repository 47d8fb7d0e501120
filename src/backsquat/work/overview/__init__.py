"""The squad at a glance."""

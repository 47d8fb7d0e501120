"""The squad: one line an athlete, and its rules."""

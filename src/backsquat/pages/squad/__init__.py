"""The squad: one line an athlete; its rules and cautions."""

"""The season's goals: milestones of the whole squad, set by one rule."""

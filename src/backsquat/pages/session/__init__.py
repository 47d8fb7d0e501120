"""The season's goals: milestones of the whole squad."""

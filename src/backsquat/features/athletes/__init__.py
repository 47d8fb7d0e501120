"""One athlete: who, limits, numbers, milestones, what was done."""

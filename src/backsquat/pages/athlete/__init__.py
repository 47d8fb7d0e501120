"""One athlete: facts, numbers, tests, milestones."""

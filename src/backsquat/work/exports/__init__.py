"""What leaves the application in open formats: the log, the plan, the calendar, the whole squad."""

"""The weight room: bars, collars, plates."""

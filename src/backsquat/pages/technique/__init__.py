"""Bodies from the side: set-ups as geometry, pictures with angles, two dates side by side."""

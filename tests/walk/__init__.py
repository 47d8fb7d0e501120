"""The application used as people use it, at random, and what must be so after every step."""

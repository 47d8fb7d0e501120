"""Measurements and trials: how fast it is, and what the progressions do to made-up athletes. No part of the product."""

"""The body seen from the side: who stands in which posture, and what a still picture shows."""

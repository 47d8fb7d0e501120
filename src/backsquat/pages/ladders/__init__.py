"""Where an athlete stands on the ladders, the readiness checks, the road to the bar."""

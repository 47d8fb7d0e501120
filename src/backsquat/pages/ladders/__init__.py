"""Where an athlete stands on the ladders, the gates, the road to the bar."""

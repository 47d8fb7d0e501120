"""Where athletes stand on the ladders, the gates, the road to the bar."""

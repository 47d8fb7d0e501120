"""What each athlete may do."""

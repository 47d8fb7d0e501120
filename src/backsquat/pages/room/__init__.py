"""The weight rooms, and who trains where."""

"""The rooms: stock, stations, who trains where."""

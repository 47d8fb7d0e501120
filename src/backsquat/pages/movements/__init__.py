"""The movement library: map, entries, ladders, which variant for whom."""

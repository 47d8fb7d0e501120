"""The movement library: map, pages, ladders, the squad's own entries, which variant for whom."""

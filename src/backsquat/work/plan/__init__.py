"""Planning: from progressions and rooms to cells of the sheet."""

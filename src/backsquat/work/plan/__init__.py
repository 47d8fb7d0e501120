"""Planning: from schools and rooms to cells of the sheet."""

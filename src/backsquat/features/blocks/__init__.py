"""Planning a block: the sheet, its cells, publishing."""

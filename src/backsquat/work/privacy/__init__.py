"""What is kept about one person: handed out whole, erased whole."""

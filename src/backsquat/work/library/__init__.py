"""A squad's library: movements, screens, block templates."""

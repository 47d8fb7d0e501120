"""Athletes, rules, context."""

"""The block: sheet, slots, schools, week check, versions."""

"""The block: sheet, exercises, progressions, week check, versions."""

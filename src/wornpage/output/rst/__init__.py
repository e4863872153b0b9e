"""Sources in reStructuredText."""

"""Which values the givens of a page can have together: those of its editions, and those that readers may pick within a page."""

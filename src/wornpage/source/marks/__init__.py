"""What stands in braces: one file a verb, named in `table.py`."""

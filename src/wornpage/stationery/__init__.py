"""The looks of a page: one folder each."""

"""A composed page becomes files: one folder an output."""

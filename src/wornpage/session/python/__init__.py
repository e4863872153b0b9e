"""The driver that runs inside a Python session. It starts with the standard library alone."""

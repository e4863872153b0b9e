"""Single chunks on the workers of a cluster."""

"""HTML: one file that needs nothing else."""

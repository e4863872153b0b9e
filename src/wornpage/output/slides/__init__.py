"""Slides in the browser: one HTML file that needs nothing else."""

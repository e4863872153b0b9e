"""Presentations in Office Open XML."""

"""Slides on sheets: one a sheet, each step a sheet, or three to a sheet with lines beside."""

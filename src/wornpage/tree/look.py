"""Colours that figures in the page's look are drawn in: what stands for its ink and its thin lines, and those for data."""

from __future__ import annotations

INK = "#23262b"
"""In HTML that of the page, whatever it is."""
LINES = "#d8d4ca"
"""The same for thin lines, such as a grid."""
COLOURS = ("#2f7f86", "#b5533c", "#c08a2e", "#6b6fa8", "#5f8a4e", "#a1577f", "#7d6a55", "#4a90c2")
"""For data; each stands apart from a light page and a dark one, and from the others also for those who see colours otherwise."""

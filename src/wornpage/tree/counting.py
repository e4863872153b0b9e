"""Counting in letters: parts of figures, appendices, notes of tables, works of one year."""

from __future__ import annotations

import string


def letters(number: int) -> str:
    """`a` to `z`, then `aa`, `ab` and so on, for numbers from 1. Raises `ValueError` for others."""
    if number < 1:
        raise ValueError(f"letters count from 1, and not from {number}")
    said = ""
    while number:
        number, rest = divmod(number - 1, 26)
        said = string.ascii_lowercase[rest] + said
    return said

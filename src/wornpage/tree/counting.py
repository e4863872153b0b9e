"""Counting in letters and in Roman numbers: parts of figures, appendices, notes of tables, works of one year."""

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


_ROMAN = ((1000, "M"), (900, "CM"), (500, "D"), (400, "CD"), (100, "C"), (90, "XC"), (50, "L"), (40, "XL"), (10, "X"), (9, "IX"),
          (5, "V"), (4, "IV"), (1, "I"))  # fmt: skip


def roman(number: int) -> str:
    """`I`, `II`, `III` and so on, for parts of a volume."""
    said = ""
    for value, sign in _ROMAN:
        count, number = divmod(number, value)
        said += sign * count
    return said

"""Tables as text, with commas, semicolons or tabs between the cells."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence


def table_reader(text: str, sign: str = "") -> tuple[csv.DictReader[str], int]:
    """Reads rows by column, and how many empty lines stand above the heads; the sign between cells is found out.

    Raises `ValueError` where two columns have one name: nobody could say which of them counts; `csv.Error`.
    """
    lines = text.splitlines(keepends=True)
    above = next((number for number, line in enumerate(lines) if line.strip()), 0)
    sign = sign or (sign_between(lines[above]) if lines else ",")
    rows = csv.DictReader(io.StringIO("".join(lines[above:]), newline=""), delimiter=sign, strict=True)
    check_heads(rows.fieldnames or ())
    return rows, above


def sign_between(heads: str) -> str:
    """What parts the cells of a table, by its line of heads."""
    return max(",;\t", key=heads.count)


def check_heads(heads: Sequence[object]) -> None:
    """Raise `ValueError` if two columns have one name."""
    names = [str(head).strip() for head in heads if head not in {None, ""}]
    twice = next((name for name in names if names.count(name) > 1), "")
    if twice:
        raise ValueError(f"two columns are called {twice!r}")

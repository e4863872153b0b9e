"""Rows of a table file as texts, with the line each stands in."""

from __future__ import annotations

import csv
import datetime
import io
import json
import math
import re
from collections.abc import Iterator
from pathlib import Path

from wornpage.tree.columns import check_heads, table_reader
from wornpage.tree.files import file_bytes, file_text

KINDS = (".csv", ".tsv", ".json", ".xlsx")


class TableFault(ValueError):
    """A table that cannot be read: what is wrong, and the line of it, 0 for none."""

    def __init__(self, what: str, line: int = 0) -> None:
        super().__init__(what)
        self.what, self.line = what, line


def rows_of(path: Path) -> list[tuple[int, dict[str, object]]]:
    """Line and cells by column of each row; empty cells are left out. Raises `TableFault`."""
    readers = {".csv": _csv, ".tsv": _csv, ".json": _json, ".xlsx": _excel}
    reader = readers.get(path.suffix.lower())
    if reader is None:
        raise TableFault(f"{path.name!r} is no table of a known kind; known: {', '.join(kind[1:] for kind in KINDS)}")
    try:
        return [(line, row) for line, row in reader(path) if row]
    except OSError as error:
        raise TableFault(f"{path.name!r} cannot be read: {error.strerror}") from None
    except UnicodeDecodeError:
        raise TableFault(f"{path.name!r} is not UTF-8") from None


def _csv(path: Path) -> Iterator[tuple[int, dict[str, object]]]:
    text, line = file_text(path), 1
    try:
        rows, above = table_reader(text, "\t" if path.suffix.lower() == ".tsv" else "")
        line += above
        for row in rows:
            line = above + rows.line_num
            if row.get(None):
                raise TableFault("this row has more cells than the table has columns", line)
            yield line, {str(name).strip(): cell for name, cell in row.items() if cell not in {None, ""}}
    except csv.Error as error:
        raise TableFault(f"this is no CSV: {error}", line) from None
    except TableFault:
        raise
    except ValueError as error:
        raise TableFault(str(error), line) from None


def _json(path: Path) -> Iterator[tuple[int, dict[str, object]]]:
    text = file_text(path)
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise TableFault(f"this is no JSON: {error}", getattr(error, "lineno", 0)) from None
    if not isinstance(data, list) or not all(isinstance(row, dict) for row in data):
        raise TableFault("the JSON is no list of objects")
    yield from ((line, plain_row(row)) for line, row in zip(_lines_of_items(text), data, strict=True))


def _lines_of_items(text: str) -> Iterator[int]:
    """The lines in which the items of a list begin, in sound JSON."""
    read = json.JSONDecoder().raw_decode
    counted, line, item = 0, 1, _ITEM.match(text, text.index("[") + 1)
    while item:
        line += text.count("\n", counted, item.end())
        yield line
        counted = item.end()
        item = _ITEM.match(text, read(text, counted)[1])


_ITEM = re.compile(r"[\s,]*(?=[^\s,\]])")
"""What stands before a further item."""


def _excel(path: Path) -> Iterator[tuple[int, dict[str, object]]]:
    try:
        from openpyxl import load_workbook
    except ImportError:
        raise TableFault("reading Excel needs the package openpyxl; save the table as CSV, or install it") from None
    from xml.etree import ElementTree as ET
    from zipfile import BadZipFile

    try:
        book = load_workbook(io.BytesIO(file_bytes(path)), read_only=True, data_only=True)
    except (BadZipFile, KeyError, ValueError, ET.ParseError) as error:
        raise TableFault(f"{path.name!r} is no Excel file: {error}") from None
    rows = book.worksheets[0].iter_rows(values_only=True)
    heads = [str(head).strip() if head is not None else "" for head in next(rows, ())]
    try:
        check_heads(heads)
    except ValueError as error:
        raise TableFault(str(error), 1) from None
    for number, row in enumerate(rows, 2):
        yield number, plain_row({head: cell for head, cell in zip(heads, row, strict=False) if head})
    book.close()


def plain_row(row: dict[str, object]) -> dict[str, object]:
    """A row's values as one would write them."""
    return {str(name): written(value) for name, value in row.items() if not _is_missing(value)}


def _is_missing(value: object) -> bool:
    return value is None or (isinstance(value, float) and math.isnan(value))


def written(value: object) -> object:
    """A value as one would write it; a list item by item."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list | tuple):
        return [written(item) for item in value]
    if isinstance(value, datetime.datetime) and value.time() == datetime.time():
        return value.date().isoformat()
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    return str(value)

"""Tables from data: cells in words, one number of decimals a column, heads merged over what they span."""

from __future__ import annotations

import datetime
import math
import re
from collections.abc import Callable
from decimal import Decimal
from itertools import groupby

from wornpage.compose.language import Language, month_of, write_date, write_number
from wornpage.compose.numbers import common_places
from wornpage.compose.values import FormFault, exact_number, fixed, plain_number, time_of_day, write_value
from wornpage.session.results import Answer
from wornpage.tree.nodes import Answered, HeadCell, Inlines, Superscript, Text, TextTable
from wornpage.tree.span import Span
from wornpage.tree.table import Cell, Column, Kind, TableData, Told, Value

DASH = "\u2013"
_SECONDS = re.compile(r"\d\d:\d\d:(?!00(?!\.))\d\d")
"""A time of day whose seconds say something."""
Words = Callable[[Told], Inlines]
"""What becomes of the author's words."""


def lay_out(table: TableData, decimals: int | None, language: Language, span: Span, words: Words) -> TextTable:
    """`table` in words. `decimals` holds for columns that do not set their own and hold fractions.

    Raises `FormFault` for a form that does not fit what it is to be written of.
    """
    layout = _Layout(decimals, language, span, words)
    if not table.columns:
        return TextTable((), ("left",), ((layout.text(DASH),),))
    columns = [layout.column(column) for column in table.columns]
    rows: list[tuple[Inlines, ...]] = list(zip(*columns, strict=True))
    kinds = ["continued" if row in set(table.continued) else "" for row in range(len(rows))]
    for row in range(len(rows) - table.foot, len(rows)):
        kinds[row] = "foot"
    for group in sorted(table.groups, key=lambda group: -group.row):
        rows.insert(group.row, (layout.text(group.words),))
        kinds.insert(group.row, "group")
    note = language.rows_cut.format(count=language.count(table.left_out)) if table.left_out else ""
    aligns = tuple(column.align or ("right" if column.kind is Kind.NUMBER else "left") for column in table.columns)
    index = sum(column.is_index for column in table.columns)
    notes = tuple((note.mark, layout.said(note.words)) for note in table.notes)
    return TextTable(layout.heads(table), aligns, tuple(rows), index, note, tuple(kinds), notes)


_DECIMAL = re.compile(r"-?\d+(?:\.\d+)?")
"""How a decimal fraction comes, which must not pass through a floating number."""


class _Layout:
    def __init__(self, decimals: int | None, language: Language, span: Span, words: Words) -> None:
        self.decimals, self.language, self.span, self.words = decimals, language, span, words
        self.has_seconds = False
        """Whether any time of day of the column at hand tells seconds."""

    def text(self, text: str) -> Inlines:
        return (Text(self.span, text),) if text else ()

    def said(self, told: str | Told) -> Inlines:
        if isinstance(told, str):
            return self.text(told)
        return self.text(self.language.word(told.word)) if told.word else self.words(told)

    # --- heads --------------------------------------------------------------------------------

    def heads(self, table: TableData) -> tuple[tuple[HeadCell, ...], ...]:
        """Rows of heads; equal neighbours above the lowest level become one cell."""
        depth = max((len(column.heads) for column in table.columns), default=0)
        return tuple(self._head_row(table, level, depth) for level in range(depth))

    def _head_row(self, table: TableData, level: int, depth: int) -> tuple[HeadCell, ...]:
        cells: list[HeadCell] = []
        paths = [
            tuple(map(repr, column.heads[: level + 1])) if not column.is_index else (str(place),)
            for place, column in enumerate(table.columns)
        ]
        for _, group in groupby(range(len(paths)), key=lambda place: paths[place]):
            members = [table.columns[place] for place in group]
            if level == depth - 1:
                cells += [HeadCell(self._marked(self.said(one.heads[level]), one.marks)) for one in members]
            else:
                cells.append(HeadCell(self.said(members[0].heads[level]), len(members)))
        return tuple(cells)

    def _marked(self, words: Inlines, marks: str) -> Inlines:
        return (*words, Superscript(self.span, marks)) if marks else words

    # --- cells --------------------------------------------------------------------------------

    def column(self, column: Column) -> list[Inlines]:
        """The cells of a column in words."""
        asked = column.decimals if column.decimals is not None else self.decimals
        if column.kind is Kind.DATE:
            self.has_seconds = any(isinstance(cell, str) and _SECONDS.search(cell) for cell in column.cells)
        if column.kind is not Kind.NUMBER or column.form:
            return [self._cell(cell, column, asked) for cell in column.cells]
        if any(isinstance(cell, str) for cell in column.cells):  # decimal fractions, which have digits of their own
            return [self._cell(cell, column, asked) for cell in column.cells]
        places = decimals_of(column, asked)
        if asked is not None:
            return [self._cell(cell, column, places) for cell in column.cells]
        return [self._with_digits(self._cell(cell, column, places), cell, places) for cell in column.cells]

    def _with_digits(self, words: Inlines, cell: Cell, places: int | None) -> Inlines:
        """The words of a number, with all its digits behind them where they are fewer."""
        exact = exact_number(cell, places)
        return (Answered(self.span, words, "", exact),) if exact else words

    def _cell(self, cell: Cell, column: Column, decimals: int | None) -> Inlines:
        if not isinstance(cell, Value):
            return self.text(self._plain(cell, column, decimals))
        places = cell.decimals if cell.decimals is not None else decimals
        if isinstance(cell.content, Told):
            words: Inlines = self.said(cell.content)
        else:
            words = self.text(self._with_interval(cell, column, places))
        if cell.beside is not None:
            words = (*words, Text(self.span, " ("), *self._cell(cell.beside, column, places), Text(self.span, ")"))
        if cell.brackets:
            words = (Text(self.span, "("), *words, Text(self.span, ")"))
        return self._marked(words, cell.marks)

    def _with_interval(self, cell: Value, column: Column, places: int | None) -> str:
        content = cell.content
        assert not isinstance(content, Told)
        if cell.low is None and cell.high is None:
            return self._plain(content, column, places)
        ends = [self._plain(end, column, places) for end in (cell.low, cell.high)]
        between = "; " if self.language.decimal == "," else ", "
        interval = f"[{between.join(ends)}]"
        return interval if content is None else f"{self._plain(content, column, places)} {interval}"

    def _plain(self, cell: str | int | float | bool | None, column: Column, decimals: int | None) -> str:
        """One value in words."""
        if cell is None or (isinstance(cell, float) and math.isnan(cell)):
            return DASH
        if isinstance(cell, bool):
            return self.language.yes_no[0 if cell else 1]
        if isinstance(cell, str):
            exact = column.kind is Kind.NUMBER and _DECIMAL.fullmatch(cell)
            return self._exact(Decimal(cell), column, decimals) if exact else self._worded(cell, column)
        if column.form:
            return self._formed(cell, column.form, decimals)
        return _number(cell, decimals, self.language)

    def _exact(self, value: Decimal, column: Column, decimals: int | None) -> str:
        """A decimal fraction: with the digits that it has, unless others are asked for."""
        if column.form:
            return self._formed(value, column.form, decimals)
        return write_number(f"{value:f}" if decimals is None else fixed(value, decimals), self.language)

    def _worded(self, cell: str, column: Column) -> str:
        return self._date(cell, column) if column.kind is Kind.DATE else cell

    def _formed(self, value: float | Decimal, form: str, decimals: int | None) -> str:
        if form[0] in "\"'":
            try:
                return write_number(format(value, form[1:-1]), self.language)
            except ValueError as error:
                raise FormFault(f"the format {form} cannot be used for numbers: {error}") from None
        answer = Answer("whole" if isinstance(value, int) else "number", value)
        return write_value(answer, form, decimals, self.language).removeprefix("=\u00a0")

    def _date(self, text: str, column: Column) -> str:
        form = column.form
        try:
            moment = datetime.datetime.fromisoformat(text)
        except ValueError:
            return text
        if form[:1] in {"'", '"'}:
            month = month_of(moment, self.language)
            return moment.strftime(form[1:-1].replace("%B", month).replace("%b", month[:3]))
        day = write_date(moment.date(), self.language)
        if len(text) <= len("2026-01-31"):
            return day
        return f"{day}, {time_of_day(moment, self.has_seconds)}"


_BEYOND = 1e300
"""What is larger says nothing of how many places the others need."""


def decimals_of(column: Column, decimals: int | None) -> int | None:
    """Places for all numbers of a column that do not say their own."""
    known: list[float] = []
    for cell in column.cells:
        own = cell if isinstance(cell, Value) else Value(cell)
        if own.decimals is None:
            known += [
                n
                for n in (own.content, own.low, own.high)
                if isinstance(n, int) or (isinstance(n, float) and math.isfinite(n))
            ]
    if all(isinstance(value, int) for value in known):
        return 0
    known = [value for value in known if abs(value) < _BEYOND]
    if known and all(value == int(value) and abs(value) < 1e15 for value in known):
        return 0  # a column of whole numbers is read best as such, whatever its type
    return common_places(map(float, known)) if decimals is None else decimals


def _number(number: float, decimals: int | None, language: Language) -> str:
    if isinstance(number, int):
        return write_number(str(number), language)
    if math.isinf(number):
        return "∞" if number > 0 else f"{language.minus}∞"
    if decimals is None or abs(number) >= _BEYOND:
        return plain_number(number, None, language)
    return write_number(f"{number:.{decimals}f}", language)

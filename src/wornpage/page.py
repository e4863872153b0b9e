"""What the code in a page's chunks may call, beside showing the value of its last expression.

`page` is there unasked, as `given` is; `from wornpage import page, given` pleases editors. Every function sends one thing
to the page, where it stands among what the chunk prints; called in a loop, it makes as many as the data has. Words given
to them (captions, heads, notes) are Markdown with marks. Imports nothing.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any, TypeVar

T = TypeVar("T")

ByColumn = Mapping[str, object]
"""Something by the name of a column."""


def table(
    frame: object,
    caption: str = "",
    label: str = "",
    *,
    decimals: int | ByColumn | None = None,
    heads: ByColumn | Sequence[str] | None = None,
    spans: Mapping[str, Sequence[str]] | None = None,
    align: str | ByColumn | None = None,
    forms: str | ByColumn | None = None,
    units: ByColumn | None = None,
    intervals: Mapping[str, tuple[str, str]] | None = None,
    groups: str | None = None,
    notes: str | Sequence[str] | Mapping[object, str] | None = None,
    whole: bool = False,
    cell: str = "",
) -> None:
    """Show a data frame (of any library), a mapping of columns or a list of rows as a table.

    `decimals`: places of numbers, for all columns or by column. `heads`: words in place of the names of columns, by name
    or in order. `spans`: further heads above, each over the columns it names. `align`: `left`, `right` or `centre`.
    `forms`: how values are written, as in `{= value as form}`: `percent`, `thousands`, `2 decimals`, `p-value`, or a
    quoted format. `units`: added to heads in brackets. `intervals`: columns of a low and a high end, set after the
    number in the column they belong to. `groups`: a column whose values become lines above the rows they hold for.
    `notes`: words below; by column, or by (row, column) counted from 0, they are called by letters. `whole`: workbooks get
    all rows, and not just those that readers of the page see. `cell`: the place in the workbook of an office where its
    first row goes, as `Results!B7` or by a name.
    Raises `ValueError` for a column that is not there.
    """
    _sink().table(frame, caption, label, decimals=decimals, heads=heads, spans=spans, align=align, forms=forms,
                  units=units, intervals=intervals, groups=groups, notes=notes, whole=whole, cell=cell)  # fmt: skip


def cell(place: str, value: object, form: str = "") -> None:
    """Put a value into a cell of a workbook: `Results!B3`, or a name that the workbook has; readers of the page see nothing of it.

    `form`: how it is written there, as in `{= value as form}`; empty for the way the cell has.
    """
    _sink().cell(place, value, form)


def summary(
    frame: object,
    caption: str = "",
    label: str = "",
    *,
    columns: Sequence[str] | None = None,
    by: str | None = None,
    decimals: int | ByColumn | None = None,
    heads: ByColumn | None = None,
    notes: str | Sequence[str] | None = None,
) -> None:
    """Show descriptive statistics of a frame: a row for each column of numbers, and for each value of other columns.

    `columns`: only these. `by`: a column whose values each get a mean and a standard deviation of their own.
    """
    _sink().summary(frame, caption, label, columns=columns, by=by, decimals=decimals, heads=heads, notes=notes)


def crosstab(
    frame: object,
    rows: str,
    columns: str,
    caption: str = "",
    label: str = "",
    *,
    shares: str = "",
    totals: bool = True,
    decimals: int | None = None,
    notes: str | Sequence[str] | None = None,
) -> None:
    """Show how often the values of two columns of a frame meet.

    `shares`: `rows`, `columns` or `all` for percentages of those instead of counts. `totals`: with sums.
    """
    _sink().crosstab(frame, rows, columns, caption, label, shares=shares, totals=totals, decimals=decimals, notes=notes)


def model(
    *fits: object,
    caption: str = "",
    label: str = "",
    names: Sequence[str] | None = None,
    terms: Mapping[str, str] | None = None,
    leave_out: Sequence[str] = (),
    interval: float | None = None,
    stars: bool = False,
    decimals: int = 3,
    notes: str | Sequence[str] | None = None,
) -> None:
    """Show one fitted model, or several side by side, by what they offer: `params`, `bse`, `pvalues`, `conf_int()`, `nobs`,
    `rsquared`, …; SciPy's results, and a pair of parameters and their covariances, will do too.

    `names`: heads of several models. `terms`: words in place of the names of terms. `leave_out`: terms not shown.
    `interval`: the level of confidence intervals, such as 0.95, shown in place of standard errors. `stars`: mark terms by
    their p-values (0.05, 0.01, 0.001), which says less than the p-values themselves.
    """
    _sink().model(fits, caption, label, names=names, terms=terms, leave_out=leave_out, interval=interval, stars=stars,
                  decimals=decimals, notes=notes)  # fmt: skip


def figure(fig: object = None, caption: str = "", label: str = "", alt: str = "") -> None:
    """Show a Matplotlib figure, or the current one, now and with its own caption, and close it."""
    _sink().figure(fig, caption, label, alt)


def prose(text: str) -> None:
    """Show Markdown: paragraphs, lists, mathematics, marks."""
    _sink().prose(text)


def heading(text: str, level: int = 2, label: str = "") -> None:
    """Show a heading; it is numbered and listed as those of the page are. Raises `ValueError` for a level not from 1 to 6."""
    _sink().heading(text, level, label)


def rng() -> object:
    """A NumPy random generator whose seed follows from the page's and the chunk's; each call gives another."""
    return _sink().rng()


def tally(items: Iterable[T], name: str = "") -> Iterator[T]:
    """Go through `items` and show in the terminal how far it has come; nothing of it is published."""
    return _sink().tally(items, name)  # type: ignore[no-any-return]


# --- where it goes ----------------------------------------------------------------------------

_connected: list[object] = []


def connect(sink: object) -> None:
    """Let a session take what is shown from now on."""
    _connected[:] = [sink]


def _sink() -> Any:
    return _connected[0] if _connected else _Terminal()


class _Terminal:
    """Outside a page, code still runs: what it would show is printed plainly."""

    def __getattr__(self, name: str) -> object:
        def show(*arguments: object, **options: object) -> None:
            for argument in arguments:
                if argument is not None and not (isinstance(argument, str) and not argument):
                    print(argument)

        return show

    def rng(self) -> object:
        import numpy

        return numpy.random.default_rng()

    def tally(self, items: Iterable[T], name: str) -> Iterator[T]:
        return iter(items)

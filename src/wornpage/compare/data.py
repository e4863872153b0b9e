"""What has changed in a file of data: rows, columns and types of tables, lines of text."""

from __future__ import annotations

import io
from collections import Counter
from difflib import SequenceMatcher
from pathlib import PurePath
from typing import TYPE_CHECKING

from wornpage.tree.columns import sign_between

if TYPE_CHECKING:
    import pandas as pd

_SOME = 3
"""How many examples are told."""
_READERS = {
    ".csv": "read_csv", ".tsv": "read_csv", ".txt": "read_csv", ".parquet": "read_parquet", ".feather": "read_feather",
    ".xlsx": "read_excel", ".json": "read_json",
}  # fmt: skip
_MOST_LINES = 20_000
"""Lines of a text that are compared one by one."""


def described(path: str, before: bytes | None, after: bytes | None) -> tuple[str, ...]:
    """What has changed, in sentences without a stop."""
    if before is None or after is None:
        sizes = [len(one) for one in (before, after) if one is not None]
        more = f"; it has {sizes[0]:,} bytes now" if after is not None and sizes else ""
        return (f"what it holds has changed{more}; what it held is not kept, since it is large or gone",)
    suffix = PurePath(path).suffix.lower()
    if suffix in _READERS:
        try:
            was, now = (_frame(suffix, one) for one in (before, after))
            return tuple(_of_frames(was, now)) or ("the same rows are written otherwise",)
        except Exception:  # whatever a library finds wrong with a file, or with cells that cannot be compared
            return _lines(before, after)
    return _lines(before, after)


def _frame(suffix: str, data: bytes) -> pd.DataFrame:
    import pandas as pd

    options = {}
    if _READERS[suffix] == "read_csv":
        options["sep"] = sign_between(data.partition(b"\n")[0].decode("utf-8"))
    frame: pd.DataFrame = getattr(pd, _READERS[suffix])(io.BytesIO(data), **options)
    return frame


def _lines(before: bytes, after: bytes) -> tuple[str, ...]:
    try:
        was, now = before.decode("utf-8").split("\n"), after.decode("utf-8").split("\n")
    except UnicodeDecodeError:
        return (f"what it holds has changed: {len(before):,} bytes → {len(after):,} bytes",)
    if max(len(was), len(now)) > _MOST_LINES:
        return (f"{len(was):,} lines → {len(now):,} lines",)
    codes = [one for one in SequenceMatcher(None, was, now, autojunk=False).get_opcodes() if one[0] != "equal"]
    went, came = sum(one[2] - one[1] for one in codes), sum(one[4] - one[3] for one in codes)
    return (f"{_count(came, 'line')} came, {_count(went, 'line')} went",)


# --- frames -----------------------------------------------------------------------------------


def _of_frames(was: pd.DataFrame, now: pd.DataFrame) -> list[str]:
    found = []
    came = [str(one) for one in now.columns if one not in was.columns]
    went = [str(one) for one in was.columns if one not in now.columns]
    if came:
        found.append(f"new columns: {', '.join(came)}")
    if went:
        found.append(f"columns that are gone: {', '.join(went)}")
    shared = [one for one in now.columns if one in set(was.columns)]
    types = [(one, str(was[one].dtype), str(now[one].dtype)) for one in shared if was[one].dtype != now[one].dtype]
    found += [f"`{one}` is {after} now, and was {before}" for one, before, after in types]
    if not shared:
        return found
    key = _key(was, now, shared)
    return found + (_by_key(was, now, shared, key) if key is not None else _by_rows(was, now, shared))


def _key(was: pd.DataFrame, now: pd.DataFrame, shared: list[str]) -> str | None:
    """The first column that tells all rows apart, before and now."""
    for one in shared:
        try:
            if (
                was[one].is_unique
                and now[one].is_unique
                and was[one].isin(now[one]).any()
                and was[one].dtype.kind != "f"
            ):
                return one
        except TypeError:
            continue
    return None


def _by_key(was: pd.DataFrame, now: pd.DataFrame, shared: list[str], key: str) -> list[str]:
    """Rows that came, went and changed, by the column that names them."""
    first, second = was.set_index(key), now.set_index(key)
    came, went = second.index.difference(first.index, sort=False), first.index.difference(second.index, sort=False)
    found = []
    for what, rows in (("went", went), ("came", came)):
        if len(rows):
            found.append(f"{_count(len(rows), 'row')} {what}: {_some(rows)}")
    both = second.index.intersection(first.index, sort=False)
    one, other = first.loc[both], second.loc[both]
    for column in shared:
        if column == key:
            continue
        a, b = one[column], other[column]
        differs = (a.astype(object) != b.astype(object)) & ~(a.isna() & b.isna())
        if differs.any():
            rows = both[differs.to_numpy()]
            told = "; ".join(f"{row}: {_said(a.at[row])} → {_said(b.at[row])}" for row in rows[:_SOME])
            more = " …" if len(rows) > _SOME else ""
            found.append(f"`{column}` changed in {_count(len(rows), 'row')}: {told}{more}")
    if not found and list(one.index) != list(first.index.intersection(second.index, sort=False)):
        found.append("the rows stand in another order")
    return found


def _by_rows(was: pd.DataFrame, now: pd.DataFrame, shared: list[str]) -> list[str]:
    """Rows as wholes, where no column names them."""
    first, second = (
        Counter(map(str, was[shared].itertuples(index=False))),
        Counter(map(str, now[shared].itertuples(index=False))),
    )
    came, went = (second - first).total(), (first - second).total()
    found = [f"{_count(len(was), 'row')} → {_count(len(now), 'row')}"] if len(was) != len(now) else []
    if came or went:
        found.append(f"{_count(came, 'row')} came, {_count(went, 'row')} went")
    return found


def _some(rows: pd.Index) -> str:
    return ", ".join(_said(row) for row in rows[:_SOME]) + (" …" if len(rows) > _SOME else "")


def _said(value: object) -> str:
    return "nothing" if value is None or str(value) in {"nan", "<NA>", "NaT"} else str(value)


def _count(number: int, word: str) -> str:
    return f"{number:,} {word}{'' if number == 1 else 's'}"

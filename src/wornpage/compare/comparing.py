"""Two pressings, compared."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from difflib import SequenceMatcher

from wornpage.compare.aligning import NUMBER, aligned, template
from wornpage.compare.changes import (
    CellChange,
    Change,
    Comparison,
    DataChange,
    FigureChange,
    NumberChange,
    OtherChange,
    PartChange,
    RanChunk,
    RowsChange,
    WordsChange,
)
from wornpage.showing.parts import HOLE, Figure, Number, Part, Showing, ShownValue, Table, Words, asked

_AROUND = 40
"""Letters on each side of a number that are told."""
_COUNTED = re.compile(r"[(\[][^()\[\]]*\d[^()\[\]]*[)\]]|[,;:]?\s*\b[nN]\s*=\s*\d[\d.,'\u00a0\u202f]*")
"""What is said of how many something are."""
_SPACES = re.compile(r"\s+")
_WORD = re.compile(r"\s+|[^\W_]+|[\W_]")
Describe = Callable[[str, str, str], tuple[str, ...]]
"""What has changed in a file of data: of its path, its hash before and its hash now, sentences."""


def compared(before: Showing, after: Showing, describe: Describe | None = None) -> Comparison:
    """What differs between two pressings, and how much does not."""
    comparing = _Comparing()
    for order, (was, now) in enumerate(aligned(before.parts, after.parts)):
        comparing.order = order
        comparing.pair(was, now)
    return Comparison(
        before, after, tuple(comparing.changes), comparing.same, tuple(_data(before, after, describe)),
        tuple(_others(before, after)), tuple(_ran(before, after)),
    )  # fmt: skip


def _data(before: Showing, after: Showing, describe: Describe | None) -> Iterator[DataChange]:
    for path in sorted({*before.data, *after.data}):
        was, now = before.data.get(path, ""), after.data.get(path, "")
        if was == now:
            continue
        if not was or not now:
            yield DataChange(path, ("it was not read before" if now else "it is not read any more",))
        else:
            yield DataChange(path, describe(path, was, now) if describe is not None else ("what it holds has changed",))


def _ran(before: Showing, after: Showing) -> Iterator[RanChunk]:
    """Chunks that another run stands behind now, and what it hung on: the first of code, files, given values and chunks above."""
    was = {chunk.label: chunk for chunk in before.chunks}
    files = {path for path in {*before.data, *after.data} if before.data.get(path) != after.data.get(path)}
    given = {name for name in {*before.given, *after.given} if before.given.get(name) != after.given.get(name)}
    anew: set[str] = set()
    for chunk in after.chunks:
        known = was.get(chunk.label)
        if known is not None and known.run == chunk.run:
            continue
        anew.add(chunk.label)
        if known is None:
            why = "it is new"
        elif known.code != chunk.code:
            why = "its code changed"
        elif changed := files.intersection(chunk.files):
            why = f"{', '.join(sorted(changed))} changed"
        elif changed := given.intersection(chunk.given):
            why = f"the given value {', '.join(sorted(changed))} changed"
        elif changed := anew.intersection(chunk.above):
            why = f"it goes by what {', '.join(f'`{label}`' for label in chunk.above if label in changed)} wrote"
        else:
            why = "something else that it reads changed"
        yield RanChunk(chunk.label, chunk.place, why)


def _others(before: Showing, after: Showing) -> Iterator[OtherChange]:
    for kind, was, now in (("library", before.packages, after.packages), ("given", before.given, after.given)):
        for name in sorted({*was, *now}):
            if was.get(name) != now.get(name):
                yield OtherChange(kind, name, was.get(name, "none"), now.get(name, "none"))
    for kind, one, other in (("Python", before.python, after.python), ("Worn Page", before.worn, after.worn)):
        if one != other and one and other:
            yield OtherChange(kind, "", one, other)


class _Comparing:
    def __init__(self) -> None:
        self.changes: list[Change] = []
        self.same = dict.fromkeys(("values", "cells", "tables", "figures", "texts"), 0)
        self.order = 0

    def pair(self, was: Part | None, now: Part | None) -> None:
        """One part as it was and as it is."""
        match was, now:
            case (None, None):
                return
            case (None, part) | (part, None):
                assert part is not None
                self.changes.append(PartChange(now is not None, part, self.order))
            case (Words() as one, Words() as other):
                self.words(one, other)
            case (Table() as one, Table() as other):
                self.table(one, other)
            case (Figure() as one, Figure() as other):
                self.figure(one, other)

    # --- words --------------------------------------------------------------------------------

    def words(self, was: Words, now: Words) -> None:
        if was.text == now.text and not was.values and not now.values:
            self.same["texts"] += 1
            return
        in_place = len(was.between) > 1 and was.between == now.between
        self.values(was.values, now.values, now, in_place)
        if not in_place and template(was) != template(now):
            pieces = word_changes(_framed(was), _framed(now))
            if any(kind != "same" for kind, _ in pieces):
                self.changes.append(WordsChange(now.kind, pieces, now.place, self.order))
            return
        self.same["texts"] += 1
        self.numbers(was, now)

    def numbers(self, was: Words, now: Words) -> None:
        """Numbers that no mark made, such as those of what code has printed."""
        if was.values or now.values or was.text == now.text:
            return
        for one, other in zip(NUMBER.finditer(was.text), NUMBER.finditer(now.text), strict=False):
            if one[0] == other[0]:
                continue
            around, place = _around(now.text, other.start(), other.end())
            self.changes.append(
                NumberChange(one[0], other[0], _read(one[0]), _read(other[0]), "", now.place, around, place, self.order)
            )

    def values(
        self, was: Sequence[ShownValue], now: Sequence[ShownValue], within: Words, in_place: bool = False
    ) -> None:
        """Values of marks, each with the one that asks for the same, or with the one in its place where all between is as it was."""
        waiting: dict[str, list[ShownValue]] = {}
        for one in was:
            waiting.setdefault(asked(one), []).append(one)
        between, at = within.between, 0
        for number, value in enumerate(now):
            at = at + len(between[number]) if len(between) > len(now) else max(within.text.find(value.said, at), 0)
            begins, at = at, at + len(value.said)
            same = [was[number]] if in_place else waiting.get(asked(value))
            if not same:
                continue
            before = same.pop(0)
            if before.said == value.said and before.number == value.number:
                self.same["values"] += 1
                continue
            around, place = _around(within.text, begins, at)
            self.changes.append(
                NumberChange(
                    before.said, value.said, _number_of(before), _number_of(value), value.expression, value.place, around,
                    place, self.order,
                )
            )  # fmt: skip

    # --- tables -------------------------------------------------------------------------------

    def table(self, was: Table, now: Table) -> None:
        count = len(self.changes)
        self.values(was.values, now.values, _caption(now))
        self.caption(was, now)
        name = now.name or now.caption or now.label or "a table"
        heads, names = (_unique(was.heads), _unique(now.heads)), (_unique(_row_names(was)), _unique(_row_names(now)))
        columns, rows = _paired(*heads), _paired(*names)
        for what, pairs, (first, second) in (("columns", columns, heads), ("rows", rows, names)):
            self.renamed(now, name, pairs, first, second, what)
            came = tuple(key for key, one, other in pairs if one is None)
            went = tuple(key for key, one, other in pairs if other is None)
            if came or went:
                self.changes.append(RowsChange(now.label, name, what, came, went, now.place, self.order))
        for row, above, below in rows:
            if above is None or below is None:
                continue
            for column, left, right in columns:
                if left is None or right is None or (right < now.named_by and left < was.named_by):
                    continue  # what names a row has been told
                said, says = _cell(was.rows, above, left), _cell(now.rows, below, right)
                number, numbered = _number(was, above, left), _number(now, below, right)
                if said == says:
                    self.same["cells"] += 1
                    continue
                self.changes.append(
                    CellChange(now.label, name, row, column, said, says, number, numbered, now.place, self.order)
                )
        self.same["tables"] += count == len(self.changes)

    def renamed(
        self, now: Table, name: str, pairs: list[Matched], first: list[str], second: list[str], what: str
    ) -> None:
        """Heads, and names of rows, in which a number has changed."""
        for _, one, other in pairs:
            if one is None or other is None or first[one] == second[other]:
                continue
            numbers = [_read(found[0]) for found in (NUMBER.search(first[one]), NUMBER.search(second[other])) if found]
            was, number = numbers if len(numbers) == 2 else (None, None)
            row, column = ("head", second[other]) if what == "columns" else (second[other], "name")
            self.changes.append(
                CellChange(now.label, name, row, column, first[one], second[other], was, number, now.place, self.order)
            )

    def caption(self, was: Table | Figure, now: Table | Figure) -> None:
        one, other = _caption(was), _caption(now)
        if template(one) != template(other):
            self.changes.append(
                WordsChange("caption", word_changes(_framed(one), _framed(other)), now.place, self.order)
            )
        else:
            self.numbers(one, other)

    # --- figures ------------------------------------------------------------------------------

    def figure(self, was: Figure, now: Figure) -> None:
        self.values(was.values, now.values, _caption(now))
        self.caption(was, now)
        if [one.digest for one in was.pictures] == [one.digest for one in now.pictures]:
            self.same["figures"] += 1
            return
        self.changes.append(
            FigureChange(now.label, now.name, now.caption, was.pictures, now.pictures, now.place, self.order)
        )


def word_changes(was: str, now: str) -> tuple[tuple[str, str], ...]:
    """The words of a text, with what came and what went."""
    first, second = _WORD.findall(was), _WORD.findall(now)
    pieces: list[tuple[str, str]] = []
    for tag, a, b, c, d in SequenceMatcher(None, first, second, autojunk=False).get_opcodes():
        if tag == "equal":
            pieces.append(("same", "".join(first[a:b])))
            continue
        if b > a:
            pieces.append(("went", "".join(first[a:b])))
        if d > c:
            pieces.append(("came", "".join(second[c:d])))
    return tuple(pieces)


def _caption(part: Table | Figure) -> Words:
    """A caption as words."""
    count = part.frame.count(HOLE)
    return Words("caption", part.caption, part.place, part.values[:count], part.chunk, part.frame)


def _framed(words: Words) -> str:
    """A text in which values stand as their marks: they are told by themselves."""
    between = words.between
    if len(between) == 1:
        return words.text
    return between[0] + "".join(
        f"{{= {asked(value).removeprefix('=').strip()}}}{rest}"
        for value, rest in zip(words.values, between[1:], strict=True)
    )


def _around(text: str, begins: int, ends: int) -> tuple[str, int]:
    """The text around a place, in one line of whole words, and where in it the place begins."""
    first, last = max(0, begins - _AROUND), min(len(text), ends + _AROUND)
    if first > 0:
        first = next((at + 1 for at in range(first - 1, begins) if text[at].isspace()), first)
    if last < len(text):
        last = next((at for at in range(last, ends, -1) if text[at].isspace()), last)
    before = _SPACES.sub(" ", "…" * (first > 0) + text[first:begins]).lstrip()
    behind = _SPACES.sub(" ", text[ends:last] + "…" * (last < len(text))).rstrip()
    return before + text[begins:ends] + behind, len(before)


def _number_of(value: ShownValue) -> Number | None:
    """The number of a value: before rounding where that is known, else the one that it is said with."""
    found = NUMBER.findall(value.said) if value.number is None else []
    return _read(found[0]) if len(found) == 1 else value.number


def _read(said: str) -> Number | None:
    """A printed number; None where it can be read in two ways."""
    plain = said.replace("\u2212", "-").replace("\u00a0", "").replace("\u202f", "").replace("'", "")
    if re.fullmatch(r"-?\d{1,3}(,\d{3})+(\.\d+)?", plain):
        plain = plain.replace(",", "")
    elif re.fullmatch(r"-?\d+,\d+", plain):
        plain = plain.replace(",", ".")
    try:
        return float(plain)
    except ValueError:
        return None


# --- rows and columns -------------------------------------------------------------------------


def _unique(names: Sequence[str]) -> list[str]:
    """Names told apart by a number where they are alike."""
    made: list[str] = []
    counts: dict[str, int] = {}
    for name in names:
        counts[name] = counts.get(name, 0) + 1
        made.append(name if counts[name] == 1 else f"{name} ({counts[name]})")
    return made


def _row_names(table: Table) -> list[str]:
    """What rows are called: by the columns that name them; else by the first where that tells them apart; else by their number."""
    named = [" ".join(row[: table.named_by]) for row in table.rows] if table.named_by else []
    if not named:
        first = [row[0] if row else "" for row in table.rows]
        named = first if len(set(first)) == len(first) and not _are_numbers(first) else []
    return named or [str(place) for place in range(1, len(table.rows) + 1)]


def _are_numbers(words: list[str]) -> bool:
    return bool(words) and all(NUMBER.fullmatch(word) for word in words)


Matched = tuple[str, int | None, int | None]
"""A name, and its places in both."""


def _paired(first: list[str], second: list[str]) -> list[Matched]:
    """Names with their places in both, in the order of the second, what has gone at the end.

    Names are the same as well where nothing but what is counted beside them has changed, as in `rag (n = 207)`; a number
    that is part of a name, as in `quarter 3`, makes another of it.
    """
    was = {name: place for place, name in enumerate(first)}
    left = {name: place for name, place in was.items() if name not in set(second)}
    gone, new = [_uncounted(name) for name in left], [_uncounted(name) for name in second if name not in was]
    alike = {_uncounted(name): name for name in left}
    pairs: list[Matched] = []
    for at, name in enumerate(second):
        known, plain = was.get(name), _uncounted(name)
        if known is None and plain and gone.count(plain) == new.count(plain) == 1:
            known = left.pop(alike[plain])
        pairs.append((name, known, at))
    return pairs + [(name, place, None) for name, place in left.items()]


def _uncounted(name: str) -> str:
    """A name without what is counted beside it."""
    return " ".join(_COUNTED.sub(" ", name).split())


def _cell(rows: Sequence[Sequence[str]], row: int, column: int) -> str:
    return rows[row][column] if column < len(rows[row]) else ""


def _number(table: Table, row: int, column: int) -> Number | None:
    exact = table.exact[row] if row < len(table.exact) else ()
    if column < len(exact):
        return exact[column]
    said = _cell(table.rows, row, column)
    return _read(said) if NUMBER.fullmatch(said) else None

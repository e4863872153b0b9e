"""Authors, their places and addresses, keywords and dates that a reviewer has changed in the head of a document.

What such a paragraph shows is values of the front matter within a frame of commas and words; a new text is read by the same frame.
"""

from __future__ import annotations

import datetime
import re
from collections.abc import Sequence
from copy import deepcopy
from itertools import pairwise
from typing import Any

from msgspec import Struct, field

from wornpage.collate.aligning import Piece
from wornpage.collate.letters import Letter, Paragraph
from wornpage.collate.report import Patch, applied
from wornpage.collate.wording import likeness, same
from wornpage.compose.language import language_of, write_date
from wornpage.source.particulars import Path, Row, Value, particulars_of, scalar
from wornpage.source.text import front_matter_of
from wornpage.tree.language import Language

_UP, _DOWN = "\x01", "\x02"
"""Around letters that are raised: which place a person belongs to."""
_MARKS = "0123456789,*"
_PLAIN_MARKS = re.compile(r"(?<=[^\W\d_])([\d*]+)$")
_ENTRY = re.compile(r"([^\x01\x02,;]+)(?:\x01([^\x02]*)\x02)?(?:\s*[,;]\s*|\s*$)")
_NAMES = {"name": "name of an author", "affiliation": "affiliation", "email": "address"}
STYLES = {"author", "affiliation", "date", "keywords"}
"""The styles of paragraphs of the head that values stand in."""

_Entry = tuple[str, str]
"""A name, and what is raised behind it."""
Frame = tuple[str | Path, ...]
"""What a paragraph is made of: words, and the paths of values."""


class Told(Struct, frozen=True):
    """One change, in words."""

    what: str
    at: int
    old: str
    new: str
    why: str = ""
    """Why it is not done."""


class Change(Struct):
    """What a paragraph's new text comes to."""

    frame: Frame
    """The paragraph made of values as they are then."""
    front: Any
    """What the front matter holds then."""
    told: list[Told] = field(default_factory=list)
    patches: list[Patch] = field(default_factory=list)


def marked(letters: Sequence[Letter]) -> str:
    """What letters say, with signs around those that are raised."""
    made, is_up = "", False
    for letter in letters:
        if is_up != ("superscript" in letter.looks and letter.text in _MARKS):
            is_up = not is_up
            made += _UP if is_up else _DOWN
        made += letter.text
    return re.sub(f"(,)({_DOWN})", r"\2\1", made + _DOWN * is_up)


def shown_values(text: str) -> dict[Path, str]:
    """The values of a page as they are shown: days with their months in words."""
    language = _language(_front(text))
    return {
        path: _day(said, language) if path == ("date",) else said for path, said in particulars_of(text).texts().items()
    }


def _language(front: Any) -> Language:
    return language_of(str(front.get("language", "en")) if isinstance(front, dict) else "en")


def _day(text: str, language: Language) -> str:
    try:
        return write_date(datetime.date.fromisoformat(text), language)
    except ValueError:
        return text


def filled(frame: Frame, texts: dict[Path, str]) -> str:
    """A frame with the values of a page."""
    return "".join(part if isinstance(part, str) else texts.get(part, "") for part in frame)


class Head:
    """The head of the page that went out."""

    def __init__(self, text: str, old: Sequence[Piece], new: Sequence[Piece]) -> None:
        self.text, self.known, self.front, self.shown = text, particulars_of(text), _front(text), shown_values(text)
        self.were, self.places = (_places([one.paragraphs[0] for one in pieces]) for pieces in (old, new))
        """The affiliations of the document as it went out and as it came back, by their numbers."""
        self.used: set[str] = set()
        """Those of them that new authors have."""

    def change(self, old: Paragraph, new: Paragraph) -> Change | None:
        """What is to be changed so that the page says what the paragraph says now; None where that cannot be told."""
        before, after = marked(old.letters).strip(), marked(new.letters).strip()
        frame = self._frame(before)
        made = self._values(frame, after) or self._row(frame, old.style, before, after)
        return made if made is not None and self._holds(made, after) else None

    def _frame(self, text: str) -> Frame:
        """A paragraph as values and what stands between them."""
        parts: list[str | Path] = [text]
        for path, said in sorted(self.shown.items(), key=lambda one: (-len(one[1]), str(one[0]))):
            for at, part in enumerate(parts):
                found = re.search(rf"(?<!\w){re.escape(said)}(?!\w)", part) if isinstance(part, str) and said else None
                if found and isinstance(part, str):
                    parts[at : at + 1] = [part[: found.start()], path, part[found.end() :]]
                    break
        return tuple(part for part in parts if part)

    def _values(self, frame: Frame, after: str) -> Change | None:
        """The frame as it was, with other values: only if there is one way to see it."""
        paths = [part for part in frame if not isinstance(part, str)]
        ways = []
        for sign in ("+?", "+"):
            pattern = "".join(re.escape(part) if isinstance(part, str) else f"([^\x01\x02]{sign})" for part in frame)
            found = re.fullmatch(pattern, after)
            if found is None:
                return None
            ways.append(found.groups())
        olds = self.shown
        commas = [new.count(",") > olds[path].count(",") for new, path in zip(ways[0], paths, strict=True)]
        if ways[0] != ways[1] or not paths or (len(paths) > 1 and any(commas)) or self._is_listed(paths, commas):
            return None
        made = Change(frame, deepcopy(self.front))
        for path, new in zip(paths, ways[0], strict=True):
            if new != olds[path]:
                self._set(made, olds[path], path, new)
        return made if made.told else None

    def _is_listed(self, paths: list[Path], commas: list[bool]) -> bool:
        """Whether a comma in one single value of a list is one between two of them."""
        return any(commas) and _key(paths[0]) in {"name", "keyword"} and paths[0] != ("keywords",)

    def _set(self, made: Change, old: str, path: Path, new: str) -> None:
        """Give a value another text; so all of its key that say the same: one affiliation of several people."""
        kind, said = _key(path), self._said(path, new.strip())
        for value in self.known.values:
            if value.path == path or (value.text == old and _key(value.path) == kind == "affiliation"):
                made.patches.append(Patch(value.start, value.end, value.written(said)))
                _put(made.front, value.path, said)
        at = next(value.start for value in self.known.values if value.path == path)
        made.told.append(Told(_word(path), at, old, new.strip()))

    def _said(self, path: Path, text: str) -> str:
        """A value as it is written: a day in figures where it was, if the text is a day."""
        year = re.search(r"(?<!\d)\d{4}(?!\d)", text)
        if path != ("date",) or year is None or self.shown[path] == self.known.texts()[path] or int(year[0]) == 0:
            return text
        language, first = _language(self.front), datetime.date(int(year[0]), 1, 1)
        days = (first + datetime.timedelta(days=number) for number in range(366 if int(year[0]) < 9999 else 365))
        wanted = " ".join(text.split())
        return next((day.isoformat() for day in days if " ".join(write_date(day, language).split()) == wanted), text)

    # --- lists --------------------------------------------------------------------------------

    def _row(self, frame: Frame, style: str, before: str, after: str) -> Change | None:
        """A list of people or keywords that has grown, shrunk or changed its order."""
        key = {"author": "authors", "keywords": "keywords"}.get(style, "")
        row = self._listed(key)
        if row is None:
            return None
        names = [part for part in frame if not isinstance(part, str)]
        first = next((at for at, part in enumerate(frame) if not isinstance(part, str)), 0)
        lead = "".join(part for part in frame[:first] if isinstance(part, str))
        wanted: list[Path] = [(key,)] if self._is_alone(row) else [(key, at) for at in range(len(row.items))]
        if [path[:2] for path in names] != wanted or not after.startswith(lead):
            return None
        first_entries, entries = _entries(before[len(lead) :]), _entries(after[len(lead) :])
        if len(first_entries) != len(names):
            return None
        texts = self.known.texts()
        olds = [texts[path] for path in names]
        kept = _kept(olds, [name for name, _ in entries])
        return self._rewritten(row, names, (first_entries, entries), kept, lead)

    def _listed(self, key: str) -> Row | None:
        """The list of people or keywords; one author may stand there alone."""
        row = next((one for one in self.known.rows if one.path == (key,)), None)
        alone = next((one for one in self.known.values if one.path == (key,) == ("authors",)), None)
        return Row((key,), ((alone.start, alone.end),), in_flow=True) if row is None and alone is not None else row

    def _is_alone(self, row: Row) -> bool:
        """Whether it is no list yet."""
        return all(one.path != row.path for one in self.known.rows)

    def _rewritten(
        self, row: Row, names: list[Path], lists: tuple[list[_Entry], list[_Entry]], kept: dict[int, int], lead: str
    ) -> Change | None:
        """The list anew, of what it was written with; `lists` is what the paragraph listed, and what it lists now."""
        before, entries = lists
        between = self._between(row, [kept.get(at, -1) for at in range(len(entries))])
        if not entries or between is None:
            return None
        values = {value.path: value for value in self.known.values}
        is_alone = self._is_alone(row)
        held, now = [self.front[row.path[0]]] if is_alone else self.front[row.path[0]], list[Any]()
        start, end = row.items[0][0], row.items[-1][1]
        raws: list[str] = []
        told: list[Told] = []
        parts: list[str | Path] = [lead]
        for at, (name, marks) in enumerate(entries):
            if at in kept:
                value, (first, last) = values[names[kept[at]]], row.items[kept[at]]
                rest, item = value.path[2:], deepcopy(held[kept[at]])
                raw = self.text[first:last]
                if value.text != name:
                    raw = applied(raw, [Patch(value.start - first, value.end - first, value.written(name))])
                    told.append(Told(_word(value.path), value.start, value.text, name))
                told += self._belongs(value, before[kept[at]][1], marks)
            else:
                belongs = [self.places[number] for number in re.findall(r"\d+", marks) if number in self.places]
                self.used |= set(belongs)
                raw, rest, item = _new(row, name, belongs)
                told.append(Told(f"new {_ONE[str(row.path[0])]}", end, "", name))
            now.append({**item, "name": name} if rest else name)
            raws.append(raw)
            parts += [", " if at else "", (*row.path, at, *rest), f"{_UP}{marks}{_DOWN}" if marks else ""]
        what = f"{_ONE[str(row.path[0])]} taken away"
        gone = [path for at, path in enumerate(names) if at not in kept.values()]
        told += [Told(what, values[path].start, values[path].text, "") for path in gone]
        if [kept[at] for at in sorted(kept)] != sorted(kept.values()):
            told.append(Told(f"order of {row.path[0]}", start, "", ", ".join(name for name, _ in entries)))
        whole = "".join(gap + raw for gap, raw in zip(["", *between], raws, strict=True))
        patch = Patch(start, end, f"[{whole}]" if is_alone else whole)
        return Change(tuple(part for part in parts if part), {**self.front, str(row.path[0]): now}, told, [patch])

    def _belongs(self, name: Value, before: str, after: str) -> list[Told]:
        """Whether somebody is said to belong elsewhere now."""
        was = {self.were.get(number, number) for number in re.findall(r"\d+", before)}
        now = {self.places.get(number, number) for number in re.findall(r"\d+", after)}
        if len(was) == len(now) and (was == now or before == after):
            return []
        said, told = (", ".join(sorted(one)) for one in (was, now))
        return [Told(f"where {name.text} belongs", name.start, said, told, "it is to be changed by hand")]

    def _between(self, row: Row, olds: list[int]) -> list[str] | None:
        """What parts the entries; None if a remark that stands there now would be lost. `olds`: which each was, -1 for new ones."""
        gaps = [self.text[one[1] : other[0]] for one, other in zip(row.items, row.items[1:], strict=False)]
        begin = self.text.rfind("\n", 0, row.items[0][0]) + 1
        alone = ", " if row.in_flow else "\n" + self.text[begin : row.items[0][0]]
        usual = re.sub(r"[ \t]*(#[^\n]*)?\n", "\n", gaps[0]) if gaps else alone
        used = {one for one, other in pairwise(olds) if one >= 0 and other == one + 1}
        if any("#" in gap and at not in used for at, gap in enumerate(gaps)):
            return None
        return [gaps[one] if one in used and other == one + 1 else usual for one, other in pairwise(olds)]

    def _holds(self, made: Change, after: str) -> bool:
        """Whether the page then says what the document says, and all else in its front matter is as it was."""
        text = applied(self.text, made.patches)
        says = filled(made.frame, shown_values(text))
        return bool(made.told) and _front(text) == made.front and _plain(says) == _plain(after)


_ONE = {"authors": "author", "keywords": "keyword"}


def _key(path: Path) -> str:
    """What a value is."""
    if path[0] == "authors":
        return str(path[2]) if len(path) > 2 else "name"
    return {"keywords": "keyword", "date": "date"}.get(str(path[0]), str(path[0]))


def _word(path: Path) -> str:
    """What a value is, in words."""
    return _NAMES.get(_key(path), _key(path))


def _plain(text: str) -> str:
    """With blanks and commas of one kind, and nothing raised."""
    return " ".join(re.sub(r"\s*[,;]\s*", ", ", text.replace(_UP, "").replace(_DOWN, "")).split())


def _new(row: Row, name: str, places: list[str]) -> tuple[str, Path, Any]:
    """A new entry as YAML, where in it the name is, and what it holds."""
    if row.path != ("authors",) or not places:
        return scalar(name, row.in_flow), (), name
    said = [scalar(place, in_flow=True) for place in places]
    belongs = said[0] if len(said) == 1 else f"[{', '.join(said)}]"
    holds = {"name": name, "affiliation": places[0] if len(places) == 1 else places}
    return f"{{name: {scalar(name, in_flow=True)}, affiliation: {belongs}}}", ("name",), holds


def _entries(text: str) -> list[_Entry]:
    """A list's names, each with what is raised behind it, or was meant to be."""
    found = [(name.strip(), marks) for name, marks in _ENTRY.findall(text)]
    plain = [_PLAIN_MARKS.search(name) if not marks else None for name, marks in found]
    return [
        (name[: sign.start()], sign[1]) if sign else (name, marks)
        for (name, marks), sign in zip(found, plain, strict=True)
    ]


def _kept(olds: list[str], news: list[str]) -> dict[int, int]:
    """By the place of a new entry: the old one that it is, or has become."""
    kept = {new: old for old, new in same(olds, news)}
    for new, text in enumerate(news):  # moved
        free = [old for old, one in enumerate(olds) if one == text and old not in kept.values()]
        if new not in kept and free:
            kept[new] = free[0]
    for above, below in zip([-1, *sorted(kept)], [*sorted(kept), len(news)], strict=True):  # written otherwise
        left = kept.get(above, -1) + 1
        free = [old for old in range(left, kept.get(below, len(olds))) if old not in kept.values()]
        if len(free) == below - above - 1:
            kept.update(zip(range(above + 1, below), free, strict=True))
    for new, text in enumerate(news):
        rest = [old for old in range(len(olds)) if old not in kept.values()]
        best = max(rest, key=lambda old: likeness(olds[old], text), default=-1)
        if new not in kept and best >= 0 and likeness(olds[best], text) >= 0.5:
            kept[new] = best
    return kept


def _places(paragraphs: list[Paragraph]) -> dict[str, str]:
    """Affiliations by the numbers before them."""
    found: dict[str, str] = {}
    for one in paragraphs:
        number = re.match(r"\x01\s*(\d+)\s*\x02\s*(.+)", marked(one.letters)) if one.style == "affiliation" else None
        if number:
            found[number[1]] = number[2].strip()
    return found


def _front(text: str) -> Any:
    """The front matter, all texts as they are written; None where it is no YAML."""
    from ruamel.yaml import YAML
    from ruamel.yaml.error import YAMLError

    front, _, _ = front_matter_of(text, "")
    try:
        return YAML(typ="base", pure=True).load(front.text)
    except YAMLError:
        return None


def _put(held: Any, path: Path, text: str) -> None:
    for step in path[:-1]:
        held = held[step]
    held[path[-1]] = text

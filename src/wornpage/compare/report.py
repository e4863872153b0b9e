"""A comparison as a page for the browser, which needs nothing but itself."""

from __future__ import annotations

import base64
import datetime
import math
from importlib.resources import files
from itertools import groupby

from markupsafe import Markup, escape
from msgspec import Struct

from wornpage.compare.changes import (
    CellChange,
    Change,
    Comparison,
    FigureChange,
    NumberChange,
    PartChange,
    RowsChange,
    WordsChange,
    relative,
)
from wornpage.compare.saying import counts, difference, same_in_words, share
from wornpage.compare.versions import Bytes
from wornpage.showing.parts import Figure, Showing, ShownPicture, Table, Words

_TYPES = {"svg": "image/svg+xml", "png": "image/png", "jpeg": "image/jpeg", "gif": "image/gif", "webp": "image/webp"}
_LONGEST = 1_200
"""Letters of a text that came or went, which are shown."""


class _Picture(Struct, frozen=True):
    words: str
    source: str
    over: str = ""
    """A second picture, of which what differs is shown."""


class _Shown(Struct, frozen=True):
    """One change, as the page shows it."""

    kind: str
    body: Markup
    place: str
    code: str = ""
    delta: str = ""
    share: str = ""
    size: str = ""
    pictures: tuple[_Picture, ...] = ()


def report(comparison: Comparison, before: Bytes, after: Bytes) -> bytes:
    """The page. `before` and `after` give the bytes of pictures."""
    from jinja2 import Environment

    template = (files(__package__) / "report.html.j2").read_text(encoding="utf-8")
    shown = list(_all(comparison, before, after))
    environment = Environment(autoescape=True)
    environment.filters["coded"] = _coded
    made = environment.from_string(template).render(
        title=comparison.after.title or comparison.after.page, before=_version(comparison.before), after=_version(comparison.after),
        sums=counts(comparison), changes=shown, data=comparison.data, others=comparison.others, ran=comparison.ran,
        same=same_in_words(comparison),
    )  # fmt: skip
    return made.encode("utf-8", "replace")


def _coded(words: str) -> Markup:
    """Words in which what stands between backquotes is code."""
    parts = words.split("`")
    return Markup("").join(Markup("<code>{}</code>").format(one) if at % 2 else one for at, one in enumerate(parts))


def _version(showing: Showing) -> str:
    at = datetime.datetime.fromtimestamp(showing.when).astimezone() if showing.when else None
    return f"{showing.page}{f', {at:%Y-%m-%d %H:%M}' if at else ''}"


def _all(comparison: Comparison, before: Bytes, after: Bytes) -> list[_Shown]:
    """Every change; the cells of one table together."""
    made: list[_Shown] = []
    for is_cell, group in groupby(comparison.changes, lambda one: one.order if isinstance(one, CellChange) else None):
        some = list(group)
        if is_cell is not None:
            made.append(_cells([one for one in some if isinstance(one, CellChange)]))
        else:
            made += [_one(one, before, after) for one in some]
    return made


def _one(change: Change, before: Bytes, after: Bytes) -> _Shown:
    match change:
        case NumberChange():
            return _number(change)
        case WordsChange(kind=kind, pieces=pieces, place=place):
            tags = {"came": "ins", "went": "del"}
            body = Markup("").join(
                Markup("<{0}>{1}</{0}>").format(Markup(tags[what]), words) if what in tags else escape(words)
                for what, words in pieces
            )
            return _Shown("words", Markup("<code>{}</code>").format(body) if kind == "code" else body, place)
        case RowsChange(name=name, what=what, came=came, went=went, place=place):
            said = [Markup("{} {} came: <ins>{}</ins>").format(len(came), what, ", ".join(came[:12]))] if came else []
            said += [Markup("{} {} went: <del>{}</del>").format(len(went), what, ", ".join(went[:12]))] if went else []
            return _Shown("cell", Markup("<b>{}</b><br>").format(name) + Markup("<br>").join(said), place)
        case FigureChange():
            return _figure(change, before, after)
        case PartChange(came=came, part=part):
            tag = Markup("ins" if came else "del")
            body = Markup("<{0}>{1}</{0}>").format(tag, _said(part))
            return _Shown(
                "words" if isinstance(part, Words) else "figure" if isinstance(part, Figure) else "cell",
                body,
                part.place,
            )
    raise AssertionError(change)


def _said(part: Words | Table | Figure) -> str:
    if isinstance(part, Words):
        return part.text[:_LONGEST]
    kind = "figure" if isinstance(part, Figure) else "table"
    return f"{part.name or f'a {kind}'} {part.caption}".strip()


def _number(change: NumberChange) -> _Shown:
    at, ends = change.at, change.at + len(change.after)
    swap = Markup("<del>{}</del> <ins>{}</ins>").format(change.before, change.after)
    if not change.is_seen:
        swap = Markup("<ins>{}</ins> <span class='alike'>looks the same</span>").format(change.after)
    body = escape(change.around[:at]) + swap + escape(change.around[ends:])
    return _Shown(
        "number", body, change.place, change.expression, difference(change.was, change.now), share(change.was, change.now),
        _size(relative(change.was, change.now)),
    )  # fmt: skip


def _size(part: float | None) -> str:
    """How large a change is, for the filter; empty where it has no size."""
    return "" if part is None else f"{min(abs(part), 1e9):.9f}" if math.isfinite(part) else "1e9"


def _cells(changes: list[CellChange]) -> _Shown:
    rows = Markup("").join(
        Markup("<tr><td>{}</td><td>{}</td><td class=n><del>{}</del></td><td class=n><ins>{}</ins></td><td class=n>{}</td><td class=n>{}</td></tr>").format(
            one.row, one.column, one.before, one.after, difference(one.was, one.now), share(one.was, one.now)
        )
        for one in changes
    )  # fmt: skip
    head = Markup(
        "<tr><th>row</th><th>column</th><th class=n>before</th><th class=n>after</th><th class=n>difference</th><th class=n>share</th></tr>"
    )
    sizes = [relative(one.was, one.now) for one in changes]
    known = [abs(one) for one in sizes if one is not None]
    largest = max(known) if known and len(known) == len(sizes) else None
    body = Markup("<b>{}</b>: {} cells<table>{}{}</table>").format(changes[0].name, len(changes), head, rows)
    return _Shown("cell", body, changes[0].place, size=_size(largest))


def _figure(change: FigureChange, before: Bytes, after: Bytes) -> _Shown:
    body = Markup("<b>{}</b> {}").format(change.name or change.label or "a figure", change.caption)
    pictures: list[_Picture] = []
    for place in range(max(len(change.before), len(change.after))):
        was = _source(change.before[place], before) if place < len(change.before) else ""
        now = _source(change.after[place], after) if place < len(change.after) else ""
        pictures += [_Picture("before", was)] if was else []
        pictures += [_Picture("after", now)] if now else []
        if was and now and was != now:
            pictures.append(_Picture("what differs", was, now))
    return _Shown("figure", body, change.place, pictures=tuple(pictures))


def _source(picture: ShownPicture, bytes_of: Bytes) -> str:
    """A picture within the page; as an image nothing in it can reach the page."""
    data = bytes_of(picture.digest)
    if not data or picture.format not in _TYPES:
        return ""
    return f"data:{_TYPES[picture.format]};base64,{base64.b64encode(data).decode()}"

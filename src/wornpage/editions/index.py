"""The page that lists all editions: their values, their files, and their headline values."""

from __future__ import annotations

import datetime
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Any
from urllib.parse import quote

from wornpage.compose.language import Language, language_of
from wornpage.compose.values import write_value
from wornpage.editions.pressing import Edited, Standing
from wornpage.output.kind import Job
from wornpage.output.outputs import USUAL
from wornpage.output.outputs import names as outputs
from wornpage.output.writing import write_as
from wornpage.press.writing import put_file
from wornpage.session.results import Answer
from wornpage.tree import nodes as n
from wornpage.tree.span import Span


def write_index(edited: Edited, standings: Iterable[Standing]) -> Path:
    """Write `index.html` into the folder of the editions; its path. Raises `PageError` where that cannot be."""
    settings = edited.settings.page
    language = language_of(settings.language)
    rows = list(standings)
    title = settings.editions.title or _plain_title(edited) + ": " + language.word("editions").lower()
    at = Span(edited.page.name, 1)
    head = n.TitleBlock((n.Text(at, title),))
    composed = n.Composed(head, (_table(edited, rows, language, at),), (), title, language, settings.language)
    made = write_as(USUAL, composed, Job(settings, edited.page.path.parent, edited.page.name))
    target = edited.folder / "index.html"
    put_file(target, made.data, edited.page.name)
    return target


def _plain_title(edited: Edited) -> str:
    for title in (edited.settings.page.running_title, edited.settings.page.title):
        if title and "{=" not in title:
            return title
    words = edited.page.path.stem.replace("-", " ").replace("_", " ")
    return words[:1].upper() + words[1:]


def _table(edited: Edited, rows: Sequence[Standing], language: Language, at: Span) -> n.TableBlock:
    declared = edited.settings.declared
    names = [
        name for name in dict.fromkeys(name for row in rows for name in row.edition.given) if not _is_name(name, rows)
    ]
    headline = list(edited.settings.page.editions.headline)
    kinds = sorted({kind for row in rows for kind, _ in row.outputs[1:]}, key=outputs().index)
    heads = [language.word("edition"), *(_head(declared[name]) for name in names), *headline]
    heads += [language.word("files")] if kinds else []
    aligns = ["left", *("right" if declared[name].kind in {"number", "whole number"} else "left" for name in names)]
    aligns += ["right" if _are_numbers([row.headline.get(words, "") for row in rows]) else "left" for words in headline]
    aligns += ["left"] if kinds else []
    body = tuple(
        (
            _name(row, edited.folder, language, at),
            *(_words(at, write_plain(row.edition.values.get(name), language)) for name in names),
            *(_words(at, row.headline.get(words, "")) for words in headline),
            *((_files(row, kinds, edited.folder, at),) if kinds else ()),
        )
        for row in rows
    )
    head = tuple(n.HeadCell((n.Text(at, word),)) for word in heads)
    return n.TableBlock(at, n.TextTable((head,), tuple(aligns), body, 1), align="left")


def _is_name(name: str, rows: Sequence[Standing]) -> bool:
    """Whether a given value is what every edition is called, so that it need not stand twice."""
    return all(row.edition.name == str(row.edition.values.get(name)) for row in rows)


def _head(one: Any) -> str:
    name = one.title or one.name.replace("-", " ")
    shown = name[:1].upper() + name[1:]
    return f"{shown} ({one.unit})" if one.unit else shown


def _are_numbers(words: list[str]) -> bool:
    signs = str.maketrans("", "", "0123456789 \u00a0\u202f.,%–-−+")
    shown = [word for word in words if word]
    return bool(shown) and all(not word.translate(signs) for word in shown)


def _words(at: Span, words: str) -> n.Inlines:
    return (n.Text(at, words),) if words else ()


def _name(row: Standing, folder: Path, language: Language, at: Span) -> n.Inlines:
    name = n.Text(at, row.edition.name)
    if not row.outputs:
        return (name, n.Emphasis(at, (n.Text(at, f" ({language.word('not pressed')})"),)))
    link = n.Link(at, _address(row.outputs[0][1], folder), "", (name,))
    if row.state != "fresh":  # it failed, or was not asked for: what there is of it is from before
        return (link, n.Emphasis(at, (n.Text(at, f" ({language.word('out of date')})"),)))
    return (link,)


def _files(row: Standing, kinds: list[str], folder: Path, at: Span) -> n.Inlines:
    made: list[n.Inline] = []
    for kind in kinds:
        path = dict(row.outputs[1:]).get(kind)
        if path:
            gap = (n.Text(at, ", "),) if made else ()
            made += (*gap, n.Link(at, _address(path, folder), "", (n.Text(at, kind.upper()),)))
    return tuple(made)


def _address(path: str, folder: Path) -> str:
    """A file in the folder, as a link from the index has it."""
    return "./" + quote(Path(path).relative_to(folder).as_posix())


def write_plain(value: object, language: Language) -> str:
    """A given value in words."""
    if isinstance(value, list):
        return ", ".join(write_plain(item, language) for item in value)
    if isinstance(value, datetime.date):
        return write_value(Answer("date", value.isoformat()), "", None, language)
    kinds = {bool: "truth", int: "whole", float: "number", type(None): "missing"}
    return write_value(Answer(kinds.get(type(value), "text"), value), "", None, language)

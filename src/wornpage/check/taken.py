"""Names that chunks take over from other languages and that none of those writes, told without running anything."""

from __future__ import annotations

from collections.abc import Iterator

from wornpage.check.code import move_up
from wornpage.plan.languages import main_of
from wornpage.session.languages import language_of
from wornpage.settings import Settings
from wornpage.source import Page, all_chunks
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, near_miss
from wornpage.tree.walk import walk

_OPEN = frozenset({"exec", "eval", "globals", "vars", "setattr", "assign", "delayedAssign", "makeActiveBinding", "list2env", "attach", "load", "source", "import_module"})  # fmt: skip
"""Words of code that may write names which cannot be read off it."""


def taken_over(page: Page, settings: Settings) -> Iterator[Problem]:
    """Names in `uses=` that no chunk of another language above writes."""
    chunks = list(all_chunks(page))
    for place, chunk in enumerate(chunks):
        uses = settings.of(chunk).options.uses
        if not uses:
            continue
        own = _home(chunk)
        above = [one for one in chunks[:place] if _home(one) != own]
        there = {name for one in above for name in _bound(one, settings)} | _given(page, settings, own)
        may_be = {word for one in above for word in _words(one)}
        for name in uses:
            if name not in there | may_be and may_be.isdisjoint(_OPEN):
                what = (
                    f"no chunk of another language above writes {name!r}, which the chunk `{chunk.label}` takes over."
                )
                writers = [one for one in chunks if one is not chunk and name in _bound(one, settings)]
                yield Problem(chunk.span, what, _hint(chunk, writers, own) or near_miss(name, there))


def _hint(chunk: n.Chunk, writers: list[n.Chunk], own: str) -> str:
    """What helps where a name is written by a chunk of the same language, or by one further down."""
    if any(_home(one) == own and one.span < chunk.span for one in writers):
        return "A chunk of its own language writes it: it is there without being taken over."
    return next((move_up(one) for one in writers if _home(one) != own), "")


def _given(page: Page, settings: Settings, home: str) -> set[str]:
    """Names that inserts give to files, which are of the page's main language."""
    if main_of(page, settings) == home:
        return set()
    return {one.name for insert in walk(page.blocks) if isinstance(insert, n.Insert) for one in insert.arguments}


def _home(chunk: n.Chunk) -> str:
    """The language in whose sessions a chunk runs; the word behind its fence where no session speaks it."""
    language = language_of(chunk.language)
    return language.home if language else chunk.language


def _bound(chunk: n.Chunk, settings: Settings) -> set[str]:
    language, into = language_of(chunk.language), settings.of(chunk).options.into
    return (language.code.bound(chunk.code) if language and language.has_values else set()) | (
        {into} if into else set()
    )


def _words(chunk: n.Chunk) -> frozenset[str]:
    language = language_of(chunk.language)
    return language.code.mentioned(chunk.code) if language and language.has_values else frozenset()

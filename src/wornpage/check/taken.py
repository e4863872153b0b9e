"""Names that chunks take over from other languages and that none of those writes, told without running anything."""

from __future__ import annotations

from collections.abc import Iterator

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
    bound = [_bound(chunk, settings) for chunk in chunks]
    words = [_words(chunk) for chunk in chunks]
    given = {one.name for insert in walk(page.blocks) if isinstance(insert, n.Insert) for one in insert.arguments}
    given_in = main_of(page, settings)
    for place, chunk in enumerate(chunks):
        own = _home(chunk)
        others = [at for at in range(place) if _home(chunks[at]) != own]
        there = {name for at in others for name in bound[at]} | (given if given_in != own else set())
        may_be = {word for at in others for word in words[at]}
        for name in settings.of(chunk).options.uses:
            if name in there | may_be or may_be & _OPEN:
                continue
            what = f"no chunk of another language above writes {name!r}, which the chunk `{chunk.label}` takes over."
            later = [
                chunks[at] for at in range(place + 1, len(chunks)) if _home(chunks[at]) != own and name in bound[at]
            ]
            if any(name in bound[at] for at in range(place) if _home(chunks[at]) == own):
                hint = "A chunk of its own language writes it: it is there without being taken over."
            elif later:
                writer = later[0]
                hint = f"The chunk `{writer.label}` in line {writer.span.line} of {writer.span.file} defines it: move that up."
            else:
                hint = near_miss(name, there)
            yield Problem(chunk.span, what, hint)


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

"""The languages of a page's chunks and marks."""

from __future__ import annotations

import ast
from collections.abc import Iterable

from wornpage.plan.querying import check_addresses, check_query
from wornpage.session.languages import is_built_in, known, language_of, names
from wornpage.settings import Settings
from wornpage.source import Page, all_blocks, all_chunks
from wornpage.tree.nodes import Chunk, Insert, ValueMark
from wornpage.tree.problem import Problem, near_miss
from wornpage.tree.span import Span
from wornpage.tree.walk import walk

USUAL = "python"
"""The language of values on a page that has no chunks."""


def spoken(chunk: Chunk) -> str:
    """The name of the language in whose sessions a chunk runs, whichever word stands behind its fence. Raises `LookupError`."""
    return known(chunk.language).home


def main_of(page: Page, settings: Settings) -> str:
    """The language that values in sentences, and what inserts are given, are written in where nothing else is said.

    It is what the settings say, or that of the first chunk whose language has values to ask for.
    """
    words = [settings.page.language_of_values, *(chunk.language for chunk in all_chunks(page))]
    spoken = (language_of(word) for word in words if word)
    return next((one.name for one in spoken if one is not None and one.has_values), USUAL)


def asked_in(mark: ValueMark, main: str) -> str:
    """The name of the language of a mark on a page with this main one. Raises `LookupError`."""
    return known(mark.language).name if mark.language else main


def check_languages(page: Page, settings: Settings) -> list[Problem]:
    """Chunks and marks in a language that no session speaks."""
    nodes = list(walk(all_blocks(page)))
    problems = check_chunks(node for node in nodes if isinstance(node, Chunk))
    for name in settings.page.languages:
        if is_built_in(name):
            what = f"{name!r} is a language already, and cannot be another program."
            problems.append(Problem(settings.place("languages", name), what, "Choose another word for it."))
    problems += check_addresses(settings)
    for node in nodes:
        if isinstance(node, Chunk) and language_of(node.language) is not None:
            problems += check_query(node, settings.of(node).options, settings)
    if main_of(page, settings) == USUAL:
        problems += [problem for node in nodes if isinstance(node, Insert) for problem in _no_expressions(node)]
    asked = settings.page.language_of_values
    places = [(node.language, node.span) for node in nodes if isinstance(node, ValueMark) and node.language]
    for word, span in [*([(asked, settings.place("language-of-values"))] if asked else []), *places]:
        language = language_of(word)
        if language is None or not language.has_values:
            problems.append(_without_values(word, span, is_known=language is not None))
    return problems


def _no_expressions(insert: Insert) -> Iterable[Problem]:
    """What an insert is given, or repeated for, that is no Python; other languages say so themselves when it runs."""
    asked = {argument.expression: "It is Python, as in a value mark." for argument in insert.arguments}
    asked |= {insert.items: "Names given to the file stand before `for`."} if insert.items else {}
    for expression, hint in asked.items():
        try:
            ast.parse(f"({expression}\n)", mode="eval")
        except (SyntaxError, ValueError):
            yield Problem(insert.span, f"`{expression}` is no expression.", hint)


def check_chunks(chunks: Iterable[Chunk]) -> list[Problem]:
    """Chunks in a language that no session speaks, or none on this machine."""
    problems = []
    for chunk in chunks:
        language = language_of(chunk.language)
        if language is None:
            hint = near_miss(chunk.language, names()) or _there_are()
            problems.append(Problem(chunk.span, f"no session runs {chunk.language!r}.", hint))
        elif trouble := language.trouble:
            what, _, hint = trouble.partition("\n")
            problems.append(Problem(chunk.span, f"{what}.", hint))
    return problems


def _without_values(word: str, span: Span, is_known: bool) -> Problem:
    if is_known:
        return Problem(span, f"{word!r} has no values to ask for.", "Write the mark in another language of the page.")
    answering = [name for name in names() if (one := language_of(name)) is not None and one.has_values]
    hint = near_miss(word, answering) or f"There are: {', '.join(answering)}. Write `\\{{` for a brace."
    return Problem(span, f"no session answers marks in {word!r}.", hint)


def _there_are() -> str:
    return f"There are: {', '.join(names())}."

"""`worn sources`: a page's bibliography searched, checked, added to."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from wornpage.cli.arguments import AsJson, PageArgument
from wornpage.cli.given import prepared
from wornpage.cli.say import say, say_problems
from wornpage.tree.problem import UsageError

if TYPE_CHECKING:
    from wornpage.sources import Library

app = typer.Typer(help="A page's bibliography.", no_args_is_help=True)


@app.command("find")
def find(
    page: PageArgument,
    words: Annotated[list[str], typer.Argument(help="Words of a key, a name, a title or a year.", show_default=False)],
    as_json: AsJson = False,
) -> None:
    """Name the entries that hold all of these words, best first. Exit status 1 if there is none."""
    from wornpage.sources.care import found, told

    own = _library(page)
    entries = found(own, words)
    further = [entry for entry in found(_collection(page), words) if entry.key not in own.entries]
    if as_json:
        shown = [
            {"key": e.key, "file": e.span.file, "line": e.span.line, "entry": e.data} for e in (*entries, *further)
        ]
        typer.echo(json.dumps(shown, ensure_ascii=False, indent=2))
    for entry in () if as_json else entries:
        typer.echo(f"{entry.key:<18} {told(entry)}")
    for entry in () if as_json else further:
        typer.echo(f"{entry.key:<18} {told(entry)}  [in your library]")
    entries += further
    if not entries:
        say("no entry holds all of these words")
        raise typer.Exit(1)


@app.command("check")
def check(page: PageArgument) -> None:
    """Tell what is wrong with a page's bibliography: broken entries, fields that their type wants, entries never cited.

    Exit status 1 if an entry is broken or one that is cited is not there.
    """
    from wornpage.sources.care import faults
    from wornpage.tree.nodes import CiteMark
    from wornpage.tree.problem import Severity
    from wornpage.tree.walk import walk

    source, _ = prepared(page)
    marks = [node for node in walk(source.blocks) if isinstance(node, CiteMark)]
    library = _library(page)
    problems = faults(library, [(item.key, mark.span) for mark in marks for item in mark.items])
    say_problems(problems)
    if not problems:
        say(f"{len(library.entries)} entries, all whole and all cited")
    if any(problem.severity is Severity.ERROR for problem in problems):
        raise typer.Exit(1)


@app.command("add")
def add(
    page: PageArgument,
    work: Annotated[
        str,
        typer.Argument(
            help="A DOI, such as 10.5555/jlm.2022.0003, or its address; or a key of your library.", show_default=False
        ),
    ],
    resolver: Annotated[
        str, typer.Option(envvar="WORN_RESOLVER", help="The address that DOIs are asked of.", show_default=True)
    ] = "https://doi.org/",
) -> None:
    """Add a work to the page's first BibTeX file: one of your library (`library:`), or one that is asked for by its DOI, with a key made of name and year."""
    from wornpage.sources.adding import add_by_doi, as_bibtex
    from wornpage.sources.collecting import bibtex_file, take_over

    _, settings = prepared(page)
    file = bibtex_file(settings.page.bibliography, page.parent)
    held = _collection(page).entries.get(work)
    if held is not None:
        key = take_over(held, file, _library(page))
        entry = as_bibtex(key, held.data)
    else:
        key, entry = add_by_doi(work, resolver, file, _library(page))
    typer.echo(entry)
    say(f"added to {file}; cite it as {{cite {key}}}")


def _collection(page: Path) -> Library:
    from wornpage.sources.collecting import collection

    source, settings = prepared(page)
    return collection(settings.page.library, source.path.parent)


def _library(page: Path) -> Library:
    from wornpage.sources import read_library
    from wornpage.tree.problem import PageError, Severity

    source, settings = prepared(page)
    names = settings.page.bibliography
    if not names:
        raise UsageError("the page names no bibliography; write `bibliography: references.bib` in its front matter.")
    places = [(name, settings.place("bibliography", number)) for number, name in enumerate(names)]
    library = read_library(places, source.path.parent)
    errors = [problem for problem in library.problems if problem.severity is Severity.ERROR]
    if errors:
        raise PageError(errors)
    return library

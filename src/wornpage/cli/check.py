"""`worn check`: everything that can be known without running."""

from __future__ import annotations

import json
import sys
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from wornpage.cli.say import say
from wornpage.tree.problem import PageError, Problem, Severity
from wornpage.tree.project import VOLUME_FILE

if TYPE_CHECKING:
    from wornpage.check import Finding


def check(
    pages: Annotated[list[Path], typer.Argument(help="The pages, or volumes.", show_default=False, metavar="PAGE...")],
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
    open_comments: Annotated[
        bool, typer.Option("--open-comments", help="List what reviewers remarked and nobody has closed, too.")
    ] = False,
    sharing: Annotated[
        bool,
        typer.Option(
            "--before-sharing",
            help="Look for what should not leave, too: keys and passwords, paths of this machine, columns that name people, answers in hidden chunks, files that version control leaves out.",
        ),
    ] = False,
    as_sarif: Annotated[bool, typer.Option("--sarif", help="Print a log in the open SARIF format.")] = False,
) -> None:
    """Find what is wrong without running anything: labels, citations, images, names, packages, paths and more.

    One finding a line, as `file:line:column`. How grave each kind is stands under `check:` in the settings. Exit status 1 if
    there are errors.
    """
    from wornpage.check.finding import PAGE, Finding

    found: list[Finding] = []
    for page in pages:
        try:
            found += _findings(page)
        except PageError as error:
            found += [Finding(PAGE, problem) for problem in error.problems]
    own = [page for page in pages if page.is_file() and page.name != VOLUME_FILE]
    for page in own if open_comments or sharing else ():
        with suppress(PageError):  # of which the findings tell already
            found += _further(page, open_comments, sharing)
    errors = sum(finding.problem.severity is Severity.ERROR for finding in found)
    if as_sarif:
        from wornpage.check.sarif import sarif

        print(json.dumps(sarif(found), ensure_ascii=False, indent=2))
    elif as_json:
        data = [{"rule": finding.rule, **finding.problem.to_data()} for finding in found]
        print(json.dumps({"findings": data}, ensure_ascii=False, indent=2))
    else:
        for finding in found:
            print(_line(finding))
        warnings = len(found) - errors
        say(f"{_so_many(errors, 'error')}, {_so_many(warnings, 'warning')}" if found else "nothing found")
    if errors:
        raise typer.Exit(1)


def _findings(path: Path) -> list[Finding]:
    """Those of a page, or of a volume; a page of a volume may point at what others have."""
    from wornpage.check import check_page

    volume = path / VOLUME_FILE if path.is_dir() else path
    if volume.name == VOLUME_FILE and volume.is_file():
        from wornpage.volume.checking import check_volume

        return check_volume(volume)
    found = check_page(path, str(path))
    if all(finding.rule != "labels" for finding in found):
        return found
    from wornpage.source import read_page
    from wornpage.volume.checking import within_volume

    return within_volume(read_page(path, str(path)), found)


def _further(page: Path, open_comments: bool, sharing: bool) -> list[Finding]:
    """What is looked for only where that is asked for. Raises `PageError`."""
    from wornpage.check.finding import COMMENT, Finding
    from wornpage.check.sharing import before_sharing
    from wornpage.source.comments import comment_problems

    found = [Finding(COMMENT, problem) for problem in comment_problems(page, str(page))] if open_comments else []
    return found + (before_sharing(page, str(page)) if sharing else [])


def _line(finding: Finding) -> str:
    problem: Problem = finding.problem
    colour = "31" if problem.severity is Severity.ERROR else "33"
    place, text = str(problem.span), str(finding)
    return f"\x1b[{colour}m{place}\x1b[0m{text[len(place) :]}" if sys.stdout.isatty() else text


def _so_many(count: int, word: str) -> str:
    return f"{count} {word}" if count == 1 else f"{count} {word}s"

"""All rules over one page."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from wornpage.check import code, text
from wornpage.check.finding import PAGE, Finding, graded
from wornpage.check.others import Others
from wornpage.check.taken import taken_over
from wornpage.check.typed import typed_numbers
from wornpage.output.stationery import StationeryFault, find_stationery
from wornpage.press import examine
from wornpage.source import Page, read_page
from wornpage.tree.problem import Problem, Severity


def check_page(path: Path, name: str) -> list[Finding]:
    """Everything found without running, in the order of the text. `name` is what messages call the page.

    Raises `PageError` if it cannot be read at all.
    """
    return check_read(read_page(path, name))


def check_read(page: Page, others: Others | None = None, volume: Path | None = None) -> list[Finding]:
    """The same for a page that has been read already; in a volume, with the labels of the others."""
    settings, head, problems = examine(page, volume=volume)
    grades = settings.page.check
    found = [Finding(PAGE, problem) for problem in dict.fromkeys(problems)]
    nodes = head.nodes()
    broken: Iterable[Problem]
    of_formulas = list(text.formulas(page, settings, nodes))
    by_rule: dict[str, Iterable[Problem]] = {
        "code": code.faulty(page),
        "names": [*code.Names(page, settings, nodes).problems, *taken_over(page, settings)],
        "packages": code.packages(page),
        "files": code.missing_files(page),
        "absolute-paths": code.absolute_paths(page),
        "chance": code.chance(page, settings),
        "givens": code.unused_givens(page, settings),
        "labels": [*text.pointers(page, others), *text.labels_twice(page)],
        "citations": text.citations(page, settings, nodes),
        "formulas": [one for one in of_formulas if one.severity is Severity.ERROR],
        "prices": [one for one in of_formulas if one.severity is Severity.WARNING],
        "images": text.images(page),
        "alternative-text": text.without_words(page, settings),
        "headings": text.headings(page),
        "listings": text.listings(page),
        "captions": text.captions(page),
        "typed-numbers": typed_numbers(page, settings),
    }
    try:
        looks = find_stationery(settings.page.stationery, page.path)
    except StationeryFault:
        pass  # said already
    else:
        by_rule["figure-sizes"] = text.figure_sizes(page, settings, looks)
        by_rule["long-lines"] = text.long_lines(page, settings, looks)
    for rule, broken in code.other_languages(page).items():
        by_rule[rule] = [*by_rule[rule], *broken]
    for rule, broken in by_rule.items():
        found += graded(rule, dict.fromkeys(broken), grades)
    return sorted(found, key=lambda finding: finding.problem.span)

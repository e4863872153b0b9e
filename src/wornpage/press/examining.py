"""A page before anything runs: its settings, its head, and everything that is wrong with them."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from wornpage.compose import Head, read_head
from wornpage.output.outputs import inputs_of
from wornpage.output.stationery import StationeryFault, find_stationery
from wornpage.plan.languages import check_languages
from wornpage.settings import Settings, settle
from wornpage.settings.givens import as_written
from wornpage.source import Page, all_chunks
from wornpage.store.blocks import BlockCache
from wornpage.tree.files import file_text
from wornpage.tree.problem import Problem, near_miss, stop_on_errors

_checked_before = BlockCache("settings")


def prepare(
    source: Page, stationery: str | None = None, given: Mapping[str, object] | None = None
) -> tuple[Settings, Head, list[Problem]]:
    """Settings and head of a page, with the warnings so far. Raises `PageError` with every fault at once."""
    settings, head, problems = examine(source, stationery, given)
    stop_on_errors(problems)
    return settings, head, problems


def examine(
    source: Page, stationery: str | None = None, given: Mapping[str, object] | None = None
) -> tuple[Settings, Head, list[Problem]]:
    """Settings and head of a page, and everything that is wrong with them."""
    settings, faults = settle(
        source, _checked_before, {name: as_written(value) for name, value in (given or {}).items()}
    )
    if stationery is not None:
        settings = replace(settings, page=replace(settings.page, stationery=stationery))
    head = read_head(source, settings)
    problems = [
        *source.problems,
        *faults,
        *head.problems,
        *check_languages(all_chunks(source)),
        *_check_stationery(source, settings),
        *_check_files(source, settings),
    ]
    return settings, head, problems


def _check_files(source: Page, settings: Settings) -> list[Problem]:
    """Files that the settings name must be there."""
    problems = []
    for one in inputs_of(settings.page):
        if not one.is_text:
            continue
        file, name = source.path.parent / one.file, one.file
        try:
            file_text(file)
        except (OSError, UnicodeDecodeError) as error:
            reason = "it is not UTF-8" if isinstance(error, UnicodeDecodeError) else error.strerror
            beside = sorted(other.name for other in file.parent.iterdir()) if file.parent.is_dir() else []
            what = f"{name!r} cannot be read: {reason}."
            problems.append(Problem(settings.place(*one.setting), what, near_miss(file.name, beside)))
    return problems


def _check_stationery(source: Page, settings: Settings) -> list[Problem]:
    try:
        find_stationery(settings.page.stationery, source.path)
    except StationeryFault as fault:
        return [Problem(settings.place("stationery"), fault.what, fault.hint)]
    return []

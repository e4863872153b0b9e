"""A page before anything runs: its settings, its head, and everything that is wrong with them."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from msgspec.structs import replace

from wornpage.compose import Head, read_head
from wornpage.output.outputs import inputs_of, names
from wornpage.output.stationery import StationeryFault, find_stationery
from wornpage.plan.languages import check_languages
from wornpage.session.languages import declare
from wornpage.session.python.environments import choose
from wornpage.settings import Settings, settle
from wornpage.settings.givens import as_written
from wornpage.source import Page, all_blocks
from wornpage.store.blocks import BlockCache
from wornpage.store.packages import look_in
from wornpage.store.programs import call_instead
from wornpage.team.addresses import check_store
from wornpage.tree import nodes as n
from wornpage.tree.files import file_text
from wornpage.tree.problem import Problem, Severity, near_miss, stop_on_errors
from wornpage.tree.walk import blocks_of

_checked_before = BlockCache("settings")
_BOXES = ("note", "tip", "warning", "caution", "important", "example", "remark", "aside", "theorem", "proof", "definition", "exercise",
          "solution", "summary", "side-by-side", "column", "step", "steps", "speaker")  # fmt: skip
"""Kinds of `:::` blocks that are in common use; others are boxes too, for a stationery to draw."""


def folders_beside(page: Path) -> list[Path]:
    """A page's folder, and that of its project's settings: where an environment of its own may lie."""
    here = page.resolve().parent
    project = next((folder for folder in (here, *here.parents) if (folder / "worn.yaml").is_file()), here)
    return [here] if project == here else [here, project]


def prepare(
    source: Page,
    stationery: str | None = None,
    given: Mapping[str, object] | None = None,
    volume: Path | None = None,
    python: str = "",
) -> tuple[Settings, Head, list[Problem]]:
    """Settings and head of a page, with the warnings so far. Raises `PageError` with every fault at once."""
    settings, head, problems = examine(source, stationery, given, volume, python)
    stop_on_errors(problems)
    return settings, head, problems


def examine(
    source: Page,
    stationery: str | None = None,
    given: Mapping[str, object] | None = None,
    volume: Path | None = None,
    python: str = "",
) -> tuple[Settings, Head, list[Problem]]:
    """Settings and head of a page, and everything that is wrong with them. `python` is taken whatever they say."""
    settings, faults = settle(
        source, _checked_before, {name: as_written(value) for name, value in (given or {}).items()}, volume
    )
    if stationery is not None:
        settings = replace(settings, page=replace(settings.page, stationery=stationery))
    declare({name: (one.command, one.suffix, one.comment) for name, one in settings.page.languages.items()})
    look_in(choose(python or settings.page.python, folders_beside(source.path)).folders)
    call_instead({"R": settings.page.r.program} if settings.page.r.program else {})
    head = read_head(source, settings)
    problems = [
        *source.problems,
        *faults,
        *head.problems,
        *check_languages(source, settings),
        *check_store(settings),
        *_check_stationery(source, settings),
        *_check_files(source, settings),
        *check_containers(all_blocks(source)),
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


def check_containers(blocks: n.Blocks) -> list[Problem]:
    """`:::` blocks for an output that there is not are read by nobody; a kind that is nearly a usual one may be a slip."""
    outputs = names()
    problems = []
    for node in blocks_of(blocks):
        if not isinstance(node, n.Container):
            continue
        unknown = [name for name in node.chosen if name not in outputs]
        if unknown:
            near = near_miss(f"in {unknown[0]}", [f"in {name}" for name in outputs])
            hint = near or f"There are: {', '.join(outputs)}."
            what = f"`::: {node.kind}` is for no output that there is."
            problems.append(Problem(node.span, what, hint))
        elif not node.chosen and node.kind not in _BOXES and (hint := near_miss(node.kind, _BOXES)):
            what = f"`::: {node.kind}` is no usual kind of box."
            problems.append(Problem(node.span, what, hint, Severity.WARNING))
    return problems

"""Settings come from levels; the nearer one wins. `settle` makes one set for a page, with all faults at once."""

from __future__ import annotations

import ast
import os
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Annotated, Any, get_args, get_origin, get_type_hints

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from wornpage.settings.givens import Declared, GivenFault, chosen, declared_in
from wornpage.settings.models import ChunkOptions, PageSettings, ProjectSettings
from wornpage.settings.texts import Checked, Memory, check_header, check_yaml
from wornpage.source.inserting import templates
from wornpage.source.page import InsertedFile, Page
from wornpage.tree.files import file_text
from wornpage.tree.kinds import Files
from wornpage.tree.nodes import Blocks, Chunk, Insert
from wornpage.tree.problem import PageError, Problem, UsageError, near_miss
from wornpage.tree.project import PROJECT_FILE, VOLUME_FILE, project_file_of, project_of
from wornpage.tree.span import Span
from wornpage.tree.walk import walk

Values = Mapping[str, Any]
"""What one level sets, by field name."""


class ChunkSettings(Struct, frozen=True):
    """The settings of one chunk, and the level each came from."""

    options: ChunkOptions
    levels: dict[str, str]
    """`built in`, `worn.yaml`, `chunks: all`, `chunks: LABEL` or `header`, by option."""


class Settings(Struct, frozen=True):
    """All that is set for a page."""

    page: PageSettings
    chunks: dict[str, ChunkSettings]
    """By label; those of inserted files by file and label, whatever their repetitions are called."""
    levels: dict[str, str]
    """`worn.yaml`, `volume.yaml` or `front matter` by name of a setting (`press.html.contents`); what is not named is built in."""
    front: Checked
    project: Checked | None
    declared: dict[str, Declared]
    """The page's givens."""
    given: dict[str, object]
    """Their values."""
    given_levels: dict[str, str]
    """`default`, `worn.yaml` or `command line` by given."""
    takes: dict[str, dict[str, Declared]] = {}
    """What inserted files declare to take, by the file's name."""
    volume: Checked | None = None
    """What the volume sets that the page is bound in."""

    def of(self, chunk: Chunk) -> ChunkSettings:
        """The settings of a chunk, whichever repetition it is."""
        return _OF_INSERTS if chunk.binds else self.chunks[chunk.home or chunk.label]

    def place(self, *path: str | int) -> Span:
        """Where a value was set: in the front matter, or in `worn.yaml`; or the nearest thing around it."""
        further = [one for one in (self.volume, self.project) if one is not None and path in one.places]
        return further[0].place(*path) if further and path not in self.front.places else self.front.place(*path)


_OF_INSERTS = ChunkSettings(ChunkOptions(show="nothing"), {})
"""Of the chunks that inserts begin with."""


def settle(
    page: Page,
    memory: Memory | None = None,
    wanted: Mapping[str, object] | None = None,
    volume: Path | None = None,
) -> tuple[Settings, list[Problem]]:
    """The settings of `page`, and everything that is wrong with them.

    `memory` knows what was right before; `wanted` are given values as written on the command line; `volume` is the
    `volume.yaml` that the page is bound by.
    Raises `UsageError` where one of those cannot be.
    """
    front = check_yaml(PageSettings, page.front.text, page.name, page.front.first_line, "front matter", memory)
    problems = list(front.problems)
    project, common = _project(page, memory)
    if project is not None:
        problems += [*project.problems, *_labels_of_project(project)]
    project_given = common.pop("given", {})
    common.pop("deliver", None)  # which is for `worn deliver` alone
    bound, of_volume = _volume(page, volume, memory)
    volume_given = of_volume.pop("given", {})
    declared, faults = declared_in(front, page.path.parent)
    problems += faults
    given, given_levels, faults_of_values = chosen(declared, [
        ("worn.yaml", {name: _written(raw) for name, raw in project_given.items() if name in declared}),
        (VOLUME_FILE, {name: _written(raw) for name, raw in volume_given.items() if name in declared}),
        ("command line", wanted or {}),
    ])  # fmt: skip
    if faults:  # a given that is at fault is not known, and what is wrong with it is told first
        faults_of_values = [fault for fault in faults_of_values if fault[0] != "command line"]
    problems += [_given_problem(fault, front, project, bound) for fault in faults_of_values]
    merged = merge(merge(common, of_volume), front.values)
    settings = msgspec.convert(merged, PageSettings)
    levels = dict.fromkeys(_names(common), "worn.yaml") | dict.fromkeys(_names(of_volume), VOLUME_FILE)
    levels |= dict.fromkeys(_names(front.values), "front matter")
    found = Settings(settings, {}, levels, front, project, declared, given, given_levels, {}, bound)
    found, faults = settle_chunks(found, page.chunks, memory)
    problems += faults
    for insert in templates(page.blocks):
        found, faults = settle_insert(found, insert, page.path.parent, memory)
        problems += faults
    return found, [*problems, *_unknown_labels(found, page), *check_places(found, page.files, page.path)]


def settle_chunks(
    settings: Settings, chunks: Iterable[Chunk], memory: Memory | None = None
) -> tuple[Settings, list[Problem]]:
    """`settings` with those of further chunks, and what is wrong with theirs."""
    common = settings.project.values if settings.project is not None else {}
    front = settings.front.values.get("chunks", {})
    bound = settings.volume.values if settings.volume is not None else {}
    shared = [
        ("worn.yaml", common.get("chunks", {}).get("all", {})),
        (VOLUME_FILE, bound.get("chunks", {}).get("all", {})),
        ("chunks: all", front.get("all", {})),
    ]
    problems: list[Problem] = []
    further: dict[str, ChunkSettings] = {}
    for chunk in chunks:
        key, label = chunk.home or chunk.label, own_label(chunk)
        if key not in settings.chunks and key not in further:
            header, faults = check_header(chunk.options, chunk.span, memory)
            problems += faults
            own = front.get(label, {}) if label != "all" else {}
            further[key] = _chunk([*shared, (f"chunks: {label}", own), ("header", header)])
    return (replace(settings, chunks=settings.chunks | further) if further else settings), problems


def own_label(chunk: Chunk) -> str:
    """The label of a chunk in the file it stands in."""
    return chunk.home.rpartition("#")[2] if chunk.home else chunk.label


def settle_insert(
    settings: Settings, insert: Insert, folder: Path, memory: Memory | None = None
) -> tuple[Settings, list[Problem]]:
    """`settings` with what an inserted file sets, and what is wrong there, and with what is given to it."""
    template = insert.template
    assert template is not None
    chunks = [node for node in walk(template.blocks) if isinstance(node, Chunk)]
    settings, problems = settle_chunks(settings, chunks, memory)
    if template.name not in settings.takes:
        front = check_yaml(PageSettings, template.front, template.name, template.front_line, "front matter", memory)
        declared, faults = declared_in(front, folder / insert.folder)
        problems += [*front.problems, *faults]
        takes = {name.replace("-", "_"): one for name, one in declared.items()}
        settings = replace(settings, takes=settings.takes | {template.name: takes})
    return settings, [*problems, *_wrong_arguments(insert, settings.takes[template.name])]


_FOR_ALL = ("built in", "worn.yaml", VOLUME_FILE, "chunks: all")
"""Levels that speak of no chunk in particular."""


def shown_as(settings: Settings, output: str) -> Settings:
    """`settings` with an output's own defaults for how chunks are shown (`press: OUTPUT: chunks:`), which give way to what is said of a chunk."""
    said = f"press.{output}.chunks."
    own = getattr(getattr(settings.page.press, output.replace("-", "_")), "chunks", None)
    names = [name.removeprefix(said).replace("-", "_") for name in settings.levels if name.startswith(said)]
    if own is None or not names:
        return settings
    return replace(settings, chunks={key: _shown(one, own, names, said[:-1]) for key, one in settings.chunks.items()})


def _shown(chunk: ChunkSettings, own: Struct, names: Iterable[str], level: str) -> ChunkSettings:
    changed = {name: getattr(own, name) for name in names if chunk.levels[name] in _FOR_ALL}
    return ChunkSettings(replace(chunk.options, **changed), chunk.levels | dict.fromkeys(changed, level))


def _wrong_arguments(insert: Insert, takes: Mapping[str, Declared]) -> list[Problem]:
    """What is wrong with the names given to a file that declares what it takes."""
    problems: list[Problem] = []
    bound = {name.strip("()* ") for name in insert.target.split(",") if name.strip("()* ")}
    for argument in insert.arguments if takes else ():
        if argument.name not in takes:
            hint = near_miss(argument.name, takes) or f"It takes: {', '.join(takes)}."
            problems.append(Problem(insert.span, f"{insert.file!r} takes no {argument.name!r}.", hint))
            continue
        try:
            value = ast.literal_eval(argument.expression)
            takes[argument.name].value([str(v) for v in value] if isinstance(value, list | tuple) else str(value))
        except GivenFault as fault:
            problems.append(Problem(insert.span, fault.what, fault.hint))
        except (ValueError, SyntaxError, TypeError):
            pass  # known only when it runs
    there = bound | {argument.name for argument in insert.arguments}
    missing = [name for name, one in takes.items() if one.required and name not in there]
    problems += [
        Problem(insert.span, f"{insert.file!r} must be given {name!r}.", f"Write `{name}=…` after the file.")
        for name in missing
    ]
    return problems


def check_places(settings: Settings, files: Iterable[InsertedFile], page: Path) -> list[Problem]:
    """Inserted files lie in the project, or in a folder that `insert-from` allows."""
    project = project_of(page).resolve()
    allowed = [project, page.resolve().parent, *((page.parent / name).resolve() for name in settings.page.insert_from)]
    return [
        Problem(
            file.span,
            f"{file.path.name!r} lies outside the project's folder.",
            "Allow its folder with `insert-from: [folder]` in the front matter or worn.yaml.",
        )
        for file in files
        if not any(file.path.is_relative_to(folder) for folder in allowed)
    ]


def _written(raw: object) -> object:
    """A value of `worn.yaml` as its text, or the texts of a list."""
    if isinstance(raw, list):
        return [_written(item) for item in raw]
    return raw["raw"] if isinstance(raw, dict) and "raw" in raw else raw


def _given_problem(
    found: tuple[str, str, GivenFault], front: Checked, project: Checked | None, volume: Checked | None
) -> Problem:
    """A value that cannot be, at its place; one from the command line has none but the command line."""
    level, name, fault = found
    if level == "command line":
        raise UsageError(f"--given {name}: {fault.what} {fault.hint}".rstrip())
    own = {"worn.yaml": project, VOLUME_FILE: volume}.get(level) or front
    return Problem(own.place("given", name), fault.what, fault.hint)


def merge(further: Values, nearer: Values) -> dict[str, object]:
    """Both levels as one: nested settings are joined key by key, all else is taken from the nearer level."""
    joined = dict(further)
    for key, value in nearer.items():
        below = joined.get(key)
        joined[key] = merge(below, value) if isinstance(below, dict) and isinstance(value, dict) else value
    return joined


def _names(values: Values, before: str = "") -> Iterable[str]:
    for key, value in values.items():
        name = before + key.replace("_", "-")
        if isinstance(value, dict) and key != "given":
            yield from _names(value, f"{name}.")
        else:
            yield name


def _chunk(levels: list[tuple[str, Values]]) -> ChunkSettings:
    values: dict[str, object] = {}
    origins = dict.fromkeys(ChunkOptions.__struct_fields__, "built in")
    for level, options in levels:
        values |= options
        origins |= dict.fromkeys(options, level)
    return ChunkSettings(msgspec.convert(values, ChunkOptions), origins)


def _inserts(blocks: Blocks) -> Iterable[Insert]:
    for node in walk(blocks):
        if isinstance(node, Insert):
            yield node
            yield from _inserts(node.template.blocks) if node.template else ()


def _chunk_labels(checked: Checked) -> list[str]:
    """The labels under `chunks:`, also those whose options are at fault."""
    return [str(path[1]) for path in checked.keys if len(path) == 2 and path[0] == "chunks"]


def _unknown_labels(settings: Settings, page: Page) -> list[Problem]:
    if any(insert.has_open_name for insert in _inserts(page.blocks)):
        return []  # which files those are is known only when it runs
    front = settings.front
    labels = [own_label(chunk) for chunk in page.chunks] + [key.rpartition("#")[2] for key in settings.chunks]
    return [
        Problem(
            front.key_place("chunks", label), f"no chunk is labelled {label!r}.", near_miss(label, ["all", *labels])
        )
        for label in _chunk_labels(front)
        if label != "all" and label not in labels
    ]


# --- the level of the project ---------------------------------------------------------------


def _project(page: Page, memory: Memory | None) -> tuple[Checked | None, dict[str, Any]]:
    """What the project's `worn.yaml` sets, with files named as from the page; nothing where there is none."""
    path = project_file_of(page.path)
    return _level(ProjectSettings, path, PROJECT_FILE, page, memory) if path is not None else (None, {})


def _volume(page: Page, path: Path | None, memory: Memory | None) -> tuple[Checked | None, dict[str, Any]]:
    """So for what a volume sets for its pages; what is wrong there is told with the volume, and not with each page."""
    if path is None:
        return None, {}
    from wornpage.settings.volume import FOR_PAGES, VolumeSettings

    checked, values = _level(VolumeSettings, path, VOLUME_FILE, page, memory)
    return checked, {name: value for name, value in values.items() if name in FOR_PAGES or name == "given"}


def _level(
    kind: type[Struct], path: Path, what: str, page: Page, memory: Memory | None
) -> tuple[Checked, dict[str, Any]]:
    """What a file of settings sets, with files named as from the page."""
    folder = page.path.resolve().parent
    path = path.resolve()
    name = os.path.relpath(path, Path.cwd()) if path.is_relative_to(Path.cwd()) else str(path)
    try:
        text = file_text(path)
    except (OSError, UnicodeDecodeError) as error:
        reason = "it is not UTF-8" if isinstance(error, UnicodeDecodeError) else error.strerror
        raise PageError([Problem(Span(name, 1), f"{what} cannot be read: {reason}.")]) from None
    checked = check_yaml(kind, text, name, 1, what, memory)
    between = os.path.relpath(path.parent, folder)
    values = dict(checked.values) if between == "." else _moved(kind, checked.values, between)
    return checked, values


def _moved(kind: type[Struct], values: Values, between: str) -> dict[str, object]:
    """`values` with every name of a file led on from the folder of the page to that of the project."""
    moved: dict[str, object] = {}
    hints = get_type_hints(kind, include_extras=True)
    for key, value in values.items():
        hint = hints[key]
        if isinstance(hint, type) and issubclass(hint, Struct):
            moved[key] = _moved(hint, value, between)
        elif _names_files(hint):
            names = [value] if isinstance(value, str) else value
            found = tuple(os.path.normpath(Path(between) / name) for name in names)
            moved[key] = found[0] if isinstance(value, str) else found
        else:
            moved[key] = value
    return moved


def _names_files(hint: Any) -> bool:
    if get_origin(hint) is Annotated:
        return any(isinstance(part, Files) for part in hint.__metadata__) or _names_files(get_args(hint)[0])
    return False


def _labels_of_project(project: Checked) -> list[Problem]:
    what = "a project sets options for `all:` chunks only."
    hint = "Options of one chunk stand in its own page."
    return [
        Problem(project.key_place("chunks", label), what, hint) for label in _chunk_labels(project) if label != "all"
    ]

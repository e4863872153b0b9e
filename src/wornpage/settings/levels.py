"""Settings come from levels; the nearer one wins. `settle` makes one set for a page, with all faults at once."""

from __future__ import annotations

from typing import Any

from msgspec import Struct
from pydantic import ValidationError

from wornpage.settings.faults import problems_of
from wornpage.settings.models import ChunkOptions, PageSettings
from wornpage.settings.yaml_text import Path, Yaml, read_yaml
from wornpage.source.page import Page
from wornpage.tree.nodes import Chunk
from wornpage.tree.problem import Problem, near_miss
from wornpage.tree.span import Span


class ChunkSettings(Struct, frozen=True):
    """The settings of one chunk, and the level each came from."""

    options: ChunkOptions
    levels: dict[str, str]
    """`built in`, `chunks: all`, `chunks: LABEL` or `header`, by option."""


class Settings(Struct, frozen=True):
    """All that is set for a page."""

    page: PageSettings
    chunks: dict[str, ChunkSettings]
    """By label."""
    places: dict[Path, Span]
    """Where each value of the front matter stands."""

    def place(self, *path: str | int) -> Span:
        """The place of a value in the front matter, or of the nearest thing around it."""
        at: Path = path
        while at and at not in self.places:
            at = at[:-1]
        return self.places[at]


def settle(page: Page) -> tuple[Settings, list[Problem]]:
    """The settings of `page`, and everything that is wrong with them."""
    yaml = read_yaml(page.front.text, page.name, page.front.first_line)
    problems = list(yaml.problems)
    data = yaml.data if isinstance(yaml.data, dict) else {}
    if yaml.data is not None and not isinstance(yaml.data, dict):
        problems.append(Problem(yaml.place(()), "the front matter is no mapping.", "Write it as `key: value`."))
    settings = _front_matter(data, yaml, problems)
    problems += _unknown_labels(data.get("chunks"), page, yaml)
    chunks = {chunk.label: _chunk(chunk, settings, problems) for chunk in page.chunks}
    return Settings(settings, chunks, yaml.places), problems


def _front_matter(data: dict[str, Any], yaml: Yaml, problems: list[Problem]) -> PageSettings:
    """Validate what can be; a key at fault counts as not set, so that all faults are found at once."""
    try:
        return PageSettings.model_validate(data)
    except ValidationError as error:
        problems += problems_of(error, PageSettings, yaml.place, yaml.key_place, "setting")
        faulty = {fault["loc"][0] for fault in error.errors()}
        return PageSettings.model_validate({key: value for key, value in data.items() if key not in faulty})


def _unknown_labels(entries: Any, page: Page, yaml: Yaml) -> list[Problem]:
    labels = [chunk.label for chunk in page.chunks]
    return [
        Problem(
            yaml.key_place(("chunks", label)), f"no chunk is labelled {label!r}.", near_miss(label, ["all", *labels])
        )
        for label in (entries if isinstance(entries, dict) else ())
        if label != "all" and label not in labels
    ]


def _chunk(chunk: Chunk, settings: PageSettings, problems: list[Problem]) -> ChunkSettings:
    header = _header(chunk, problems)
    levels = [("chunks: all", settings.chunks.get("all"))]
    levels += [(f"chunks: {chunk.label}", settings.chunks.get(chunk.label)), ("header", header)]
    values: dict[str, Any] = {}
    origins = dict.fromkeys(ChunkOptions.model_fields, "built in")
    for name, options in levels:
        for key in sorted(options.model_fields_set) if options else ():
            values[key] = getattr(options, key)
            origins[key] = name
    return ChunkSettings(ChunkOptions().model_copy(update=values), origins)


def _header(chunk: Chunk, problems: list[Problem]) -> ChunkOptions:
    places: dict[Path, Span] = {(option.key,): option.span for option in chunk.options}
    data = {option.key: option.value for option in chunk.options}
    try:
        return ChunkOptions.model_validate(data)
    except ValidationError as error:

        def place(path: Path) -> Span:
            return places.get(path[:1], chunk.span)

        problems += problems_of(error, ChunkOptions, place, place, "option")
        faulty = {fault["loc"][0] for fault in error.errors()}
        return ChunkOptions.model_validate({key: value for key, value in data.items() if key not in faulty})

"""What may stand in `volume.yaml`: the pages of a work in their order, what is said of the whole, and settings for all its pages."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Struct

from wornpage.settings.models import CommonSettings, SharedSettings
from wornpage.tree.kinds import Read, SeveralWords, Truth, Words, alone, or_one

OF_THE_WORK = ("authors", "date", "keywords", "given")
"""Common settings that in a volume are those of the work, and not of each page; given values go their own way."""
FOR_PAGES = tuple(name for name in CommonSettings.__struct_fields__ if name not in OF_THE_WORK)
"""Settings that pages take from the volume."""


class PageItem(Struct, frozen=True):
    """Some pages of a volume."""

    page: Annotated[Words, "A page, or pages by a pattern: `chapters/*.md`."] = ""
    editions_of: Annotated[Words, "A page whose editions are chapters."] = ""
    only: Annotated[SeveralWords, "Names of editions, or patterns of them; all otherwise."] = ()


def _item(value: object) -> object:
    return {"page": value} if isinstance(value, str) else value


def _or_path(value: dict[str, object]) -> dict[str, object]:
    return {"anyOf": [{"type": "string"}, value]}


Items = Annotated[tuple[Annotated[PageItem, Read(_item, _or_path)], ...], Read(alone, or_one)]


class VolumePart(Struct, frozen=True):
    """A part of a volume."""

    title: Words
    pages: Items = ()


class VolumeSettings(SharedSettings, frozen=True, kw_only=True):
    """The `volume.yaml` of a work."""

    title: Annotated[Words, "The title of the work."] = ""
    subtitle: Annotated[Words, "A line under the title."] = ""
    abstract: Annotated[Words, "What it is about, in Markdown."] = ""
    name: Annotated[Words, "What its files are called; its folder's name otherwise."] = ""
    front: Annotated[Items, "Pages before the first chapter; they have no numbers."] = ()
    pages: Annotated[Items, "Chapters, in their order."] = ()
    parts: Annotated[tuple[VolumePart, ...], "Parts with a title and chapters of their own, after `pages`."] = ()
    appendix: Annotated[Items, "Chapters with letters, at the end."] = ()
    numbers: Annotated[
        Literal["by-chapter", "straight-through"],
        "Whether figures, tables and equations count anew in each chapter (3.1) or right through.",
    ] = "by-chapter"
    references: Annotated[
        Literal["whole", "each", "both"], "Where works are listed: at the end of the whole, of each chapter, or both."
    ] = "whole"
    lists: Annotated[
        tuple[Literal["figures", "tables"], ...], Read(alone, or_one), "Lists of the whole after the contents."
    ] = ()
    address: Annotated[Words, "Where the site is published: `https://handbook.example/`."] = ""
    source_link: Annotated[Words, "An address that leads to the source; `{path}` and `{line}` are put into it."] = ""
    report_link: Annotated[
        Words,
        "An address for readers who report something; `{title}`, `{body}`, `{page}`, `{place}` and `{words}` are put into it.",
    ] = ""
    downloads: Annotated[
        tuple[Literal["pdf", "code", "data"], ...], Read(alone, or_one), "What each page offers beside itself."
    ] = ()
    chapters_begin: Annotated[Literal["new-sheet", "right-hand"], "In print: where each chapter begins."] = "new-sheet"
    search: Annotated[Truth, "Whether the site can be searched."] = True


__all__ = ["FOR_PAGES", "PageItem", "VolumePart", "VolumeSettings"]

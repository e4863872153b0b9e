"""Drafts of pages, kept between bindings: a page that is as it was is not even read.

A draft is our own tree, signed like all that the store keeps, and read back as nothing but our own structs.
"""

from __future__ import annotations

import io
import pickle
from typing import Any

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from wornpage.compose.answering import Draft
from wornpage.compose.language import language_of
from wornpage.settings import PageSettings, Settings
from wornpage.settings.texts import Checked
from wornpage.source.page import FrontMatter
from wornpage.store.blocks import FileCache
from wornpage.store.hashes import hash128
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span
from wornpage.tree.walk import walk

_drafts = FileCache("drafts")
_FOR_CITING = ("citation-style", "bibliography")
"""Settings whose places are told of when pages are composed."""


class Drafted(Struct, frozen=True):
    """A page whose own questions are answered, and what was to be said of it."""

    draft: Draft
    warnings: tuple[Problem, ...] = ()
    data: tuple[str, ...] = ()
    """Files that its chunks read, relative to the page."""
    code: tuple[tuple[str, str], ...] = ()
    """Language and text of each chunk."""
    mentions: tuple[str, ...] = ()
    """Labels that it points to."""
    is_indexed: bool = False
    """Whether it has words for the index."""
    known: str = ""
    """What the draft is known by."""


def keep(page: str, drafted: Drafted) -> str:
    """Keep the draft of a page, called so among those of all volumes; what it is known by."""
    made = _packed(drafted)
    _drafts.put(made, page.encode("utf-8", "surrogatepass"), "draft")
    return str(hash128(made).hexdigest())


def kept(page: str, known: str) -> Drafted | None:
    """The draft of a page, if it is the one that is known so."""
    made = _drafts.get(page.encode("utf-8", "surrogatepass"), "draft")
    if made is None or hash128(made).hexdigest() != known:
        return None
    try:
        return replace(_unpacked(made), known=known)
    except (pickle.UnpicklingError, msgspec.MsgspecError, AttributeError, TypeError, ValueError, EOFError):
        return None


def _packed(drafted: Drafted) -> bytes:
    draft = drafted.draft
    page = draft.page
    light = replace(
        page,
        text="\n" * page.text.count("\n"),
        front=FrontMatter("", 1),
        blocks=(),
        chunks=tuple(replace(one, code="", fence="", options=(), captions=()) for one in page.chunks),
        problems=(),
        files=(),
    )
    settings = msgspec.msgpack.encode(draft.settings.page)
    places = {
        path: draft.settings.place(*path)
        for name in _FOR_CITING
        for path in [(name,), *((name, at) for at in range(len(draft.settings.page.bibliography)))]
    }
    held = (light, settings, places, draft.head, draft.blocks, draft.problems, draft.files, drafted.warnings)
    return pickle.dumps((held, drafted.data, drafted.code, drafted.mentions, drafted.is_indexed), protocol=5)


class _OwnOnly(pickle.Unpickler):
    """Reads structs of ours and paths, and nothing else."""

    def find_class(self, module: str, name: str) -> Any:
        if module.startswith("wornpage.") or (module, name) in _PATHS:
            return super().find_class(module, name)
        raise pickle.UnpicklingError(f"{module}.{name}")


_PATHS = {("pathlib", "PosixPath"), ("pathlib", "WindowsPath"), ("msgspec._core", "rebuild")}


def _unpacked(made: bytes) -> Drafted:
    held, data, code, mentions, is_indexed = _OwnOnly(io.BytesIO(made)).load()
    page, settings, places, head, blocks, problems, files, warnings = held
    own = msgspec.msgpack.decode(settings, type=PageSettings)
    checked = Checked({}, {(): Span(page.name, 1), **places}, {})
    draft = Draft(page, bare(own, checked), language_of(own.language), head, blocks, problems, files)
    return Drafted(draft, warnings, data, code, mentions, is_indexed)


def mentions_of(draft: Draft) -> tuple[str, ...]:
    """Labels that a page points to, in all ways in which they may be meant in a repeated file."""
    found: dict[str, None] = {}
    head = draft.head
    for node in walk((*head.title, *head.subtitle, *head.abstract, *draft.blocks)):
        labels = (
            node.labels
            if isinstance(node, n.PointerMark)
            else (node.to,)
            if isinstance(node, n.Link) and node.to
            else ()
        )
        found.update(dict.fromkeys(labels))
    return tuple(found)


def bare(page: PageSettings, checked: Checked) -> Settings:
    """What composing needs of a page's settings."""
    return Settings(page, {}, {}, checked, None, {}, {}, {})


def lifted(draft: Draft) -> Draft:
    """A page without a title takes its first heading for one, if nothing stands above that and no other is as high."""
    first = draft.blocks[0] if draft.blocks else None
    if draft.head.title or not isinstance(first, n.Heading):
        return draft
    others = [block for block in draft.blocks[1:] if isinstance(block, n.Heading)]
    if any(other.level <= first.level for other in others):
        return draft
    return replace(draft, head=replace(draft.head, title=first.children, label=first.label), blocks=draft.blocks[1:])

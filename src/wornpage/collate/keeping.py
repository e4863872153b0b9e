"""Writing what was collated: the page, its comments, and the page as it was."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from wornpage.collate.collating import Collated
from wornpage.collate.remarks import with_remarks
from wornpage.output.atomic import write_file
from wornpage.source.comments import read_notes, side_file, written
from wornpage.source.text import as_encoded
from wornpage.tree.problem import UsageError

_BEFORE = ".before-collating.md"


class Kept(Struct, frozen=True):
    """What was written."""

    written: tuple[Path, ...]
    before: Path | None
    """Where the page as it was is kept; None where it did not change."""


def may_write(page: Path) -> bool:
    """Whether a page is in a folder under version control, so that what is written over can be had again."""
    folders = [page.resolve().parent, *page.resolve().parent.parents]
    return any((folder / name).exists() for folder in folders for name in (".git", ".hg", ".svn", ".jj"))


def keep(page: Path, made: Collated) -> Kept:
    """Write the page and its comments. Raises `UsageError` where that cannot be; an earlier page is then as it was."""
    files: list[Path] = []
    before = None
    notes, _ = with_remarks(read_notes(page), made.remarks)
    try:
        if made.text != made.before:
            raw = page.read_bytes()
            before = page.with_name(page.name.removesuffix(".md") + _BEFORE)
            write_file(before, raw)
            write_file(page, as_encoded(made.text, raw))
            files.append(page)
        if made.remarks and write_file(side_file(page), written(notes).encode("utf-8")):
            files.append(side_file(page))
    except OSError as error:
        raise UsageError(f"{error.filename or page} cannot be written: {error.strerror}.") from None
    return Kept(tuple(files), before)

"""Writing a file that the command line names: never over a source."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from wornpage.tree.problem import UsageError

_PAGES = {".md", ".markdown"}


def check_target(path: Path, sources: Iterable[Path]) -> None:
    """Raise `UsageError` if writing to `path` would write over one of `sources`, or over any page."""
    from wornpage.output.atomic import IsSource, spare

    try:
        spare(path, sources)
        if path.suffix.lower() in _PAGES and path.exists():
            raise IsSource(0, "it is a page, and sources are never written over")
    except IsSource as error:
        raise UsageError(f"{path} stays as it is: {error.strerror}. Name another file.") from None


def save(path: Path, data: bytes, sources: Iterable[Path]) -> None:
    """Write `data` to `path`. Raises `UsageError`."""
    from wornpage.output.atomic import write_file

    check_target(path, sources)
    try:
        write_file(path, data)
    except (OSError, ValueError) as error:
        raise UsageError(f"{path} cannot be written: {getattr(error, 'strerror', None) or error}.") from None

"""Works from somebody's own collection, which is far larger than what a page cites: found, and taken into the page's bibliography."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path

from wornpage.sources.adding import append, as_bibtex, key_for
from wornpage.sources.care import names_of, plain, year_of
from wornpage.sources.entries import Entry, Library, read_library
from wornpage.tree.problem import UsageError
from wornpage.tree.span import Span

_read: dict[tuple[str, ...], tuple[tuple[int, ...], Library]] = {}
"""Collections that were read, by their files, with the times that these had then."""


def collection(files: Iterable[str], folder: Path) -> Library:
    """The works of exported collections (BibTeX or CSL-JSON); read anew when a file has changed. Files that are not there hold none."""
    paths = tuple(str(folder / Path(name).expanduser()) for name in files)
    there = tuple(path for path in paths if Path(path).is_file())
    stamp = tuple(Path(path).stat().st_mtime_ns for path in there)
    known = _read.get(there)
    if known is None or known[0] != stamp:
        known = _read[there] = (stamp, read_library([(path, Span(path, 1)) for path in there], folder))
    return known[1]


def bibtex_file(names: Sequence[str], folder: Path) -> Path:
    """The first BibTeX file of a page, into which works are written. Raises `UsageError` where it names none."""
    own = [name for name in names if not name.endswith(".json")]
    if not own:
        raise UsageError("the page names no BibTeX file; write `bibliography: references.bib` in its front matter.")
    return folder / own[0]


def key_when_taken(entry: Entry, library: Library) -> tuple[str, bool]:
    """By which key a work is cited in a page with this bibliography, and whether it is in there already."""
    for one in library.entries.values():
        if _is_same(one, entry):
            return one.key, True
    is_free = _is_fit(entry.key) and entry.key not in library.entries
    return (entry.key if is_free else key_for(entry.data, library)), False


def _is_same(one: Entry, other: Entry) -> bool:
    """Whether two entries are of one work: by their DOI, or by names, title and year."""
    dois = [str(entry.data.get("DOI", "")).lower() for entry in (one, other)]
    if all(dois):
        return dois[0] == dois[1]
    told = [(plain(names_of(entry)), year_of(entry), plain(str(entry.data.get("title", "")))) for entry in (one, other)]
    return told[0] == told[1]


def take_over(entry: Entry, path: Path, library: Library) -> str:
    """Write a work into a page's bibliography, unless it is there; the key to cite it by. Raises `UsageError`."""
    key, is_there = key_when_taken(entry, library)
    if not is_there:
        append(path, as_bibtex(key, entry.data))
    return key


def _is_fit(key: str) -> bool:
    """Whether a key may stand in a mark as it is."""
    return bool(key) and all(sign.isalnum() or sign in "-_:.+" for sign in key)

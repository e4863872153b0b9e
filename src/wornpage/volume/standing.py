"""Whether a volume is as it was last bound: asked before anything else is imported."""

from __future__ import annotations

import json
from pathlib import Path

from wornpage.plan import manifest
from wornpage.press.abroad import BOUND
from wornpage.store.addresses import digest
from wornpage.tree.version import VERSION

_seen: dict[tuple[str, str, tuple[str, ...]], manifest.Manifest] = {}
"""Pages that this process has found to be as they were, a moment ago."""


def kept_as(folder: Path) -> str:
    """Under what the state of a volume in a folder is kept."""
    return f"{BOUND}/{digest(str(folder))}"


def still_bound(file: Path, kinds: list[str], folder: Path, today: str) -> manifest.Manifest | None:
    """The last binding of a volume, if it made these outputs, and neither its list nor any of its pages has changed since."""
    last = manifest.last(file, kept_as(folder))
    if last is None or "pages" not in last.headline:
        return None
    is_right, warnings = True, list[str]()
    for path, edition, chosen, known in json.loads(last.headline["pages"]):
        page = still_drafted(path, edition, chosen, today)
        is_right = is_right and page is not None and page.headline.get("draft") == known
        warnings += page.warnings if page is not None else ()
    found = manifest.still_right(file, kinds, folder, today, VERSION, kept_as(folder)) if is_right else None
    if found is not None:
        found.warnings = (*warnings, *found.warnings)
    return found


def still_drafted(path: str, edition: str, chosen: list[str], today: str) -> manifest.Manifest | None:
    """The last state of a page, if it is right still; asked once."""
    key = (path, edition, tuple(chosen))
    found = _seen.get(key) or manifest.still_right(Path(path), [], None, today, VERSION, edition, chosen)
    if found is not None:
        _seen[key] = found
    return found


def look_again() -> None:
    """Forget what was found a moment ago."""
    _seen.clear()


def words_for(state: str, pages: list[tuple[str, str, list[str], str]]) -> dict[str, str]:
    """What is remembered of a binding: the state of the whole; of each page its path, its name among editions, what it was given,
    and by what its draft is known."""
    return {"state": state, "pages": json.dumps(pages)}

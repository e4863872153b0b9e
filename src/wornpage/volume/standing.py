"""Whether a volume is as it was last bound: asked before anything else is imported."""

from __future__ import annotations

import json
from pathlib import Path

from wornpage.plan import manifest
from wornpage.tree.version import VERSION

BOUND = "bound"
"""Under what the state of a volume is kept, beside that of its pages."""


def still_bound(file: Path, kinds: list[str], folder: Path, today: str) -> manifest.Manifest | None:
    """The last binding of a volume, if it made these outputs, and neither its list nor any of its pages has changed since."""
    found = manifest.still_right(file, kinds, folder, today, VERSION, BOUND)
    if found is None or "pages" not in found.headline:
        return None
    for path, edition, chosen, known in json.loads(found.headline["pages"]):
        page = manifest.still_right(Path(path), [], None, today, VERSION, edition, chosen)
        if page is None or page.headline.get("draft") != known:
            return None
        found.warnings = (*page.warnings, *found.warnings)
    return found


def words_for(state: str, pages: list[tuple[str, str, list[str], str]]) -> dict[str, str]:
    """What is remembered of a binding: the state of the whole; of each page its path, its name among editions, what it was given,
    and by what its draft is known."""
    return {"state": state, "pages": json.dumps(pages)}

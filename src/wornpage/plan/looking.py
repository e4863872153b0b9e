"""Whether code looks at files that are not as the steps above it have left them: what its last run tells, and what its run has told."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable
from pathlib import Path

from wornpage.session.told import Found
from wornpage.store.trace import Last

_BESIDE = frozenset({"subprocess", "system", "popen", "Popen"})
"""Words for other programs, of which it is not known what they look at."""


def may_look_at(code: str, last: Last | None, files: Collection[str]) -> bool:
    """Whether code that is about to run may look at one of these files, by its words and its `last` run."""
    words = set(re.findall(r"\w+", code))
    named = not words.isdisjoint(word for path in files for word in re.findall(r"\w+", Path(path).stem))
    return (
        named or not words.isdisjoint(_BESIDE) or last is None or _are_among((read.name for read in last.reads), files)
    )


def may_have_seen(found: Found, files: Collection[str]) -> bool:
    """Whether code looked at one of these files, or into its folder; what other processes look at is not known."""
    return found.spawned or _are_among((path for paths in found.files.values() for path in paths), files)


def _are_among(looked_at: Iterable[str], files: Iterable[str]) -> bool:
    paths = {path.partition("\t")[0] for path in looked_at}
    return any(path in paths or str(Path(path).parent) in paths for path in files)

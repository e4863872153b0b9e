"""What code can read beside its own text: one file a kind, each named here."""

from __future__ import annotations

from functools import cache
from importlib import import_module

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Iterator

    from wornpage.plan.reads.kind import ReadKind

KINDS = (
    "ambient", "database", "effects", "entry", "environment", "file", "given", "glob", "handed", "identity", "layout", "library", "listing", "matching", "module",
    "name", "names", "package", "place", "presence", "program", "repository", "rights", "seed", "sharing", "sight", "source", "surroundings", "times", "words",
)  # fmt: skip


@cache
def kind_of(name: str) -> ReadKind | None:
    """The kind of that name; None for one that there is no more. Its file is loaded when it is first asked for."""
    if name not in KINDS:
        return None
    kind: ReadKind = import_module(f"{__name__}.{name}").KIND
    return kind


def kinds() -> Iterator[ReadKind]:
    """All of them."""
    return (kind for name in KINDS if (kind := kind_of(name)) is not None)

"""The kinds of shelves, by what their addresses begin with (`addresses.SCHEMES`)."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from wornpage.settings.models import TeamStore
from wornpage.team.shelf import Away, Shelf


def open_shelf(asked: TeamStore, project: Path) -> Shelf:
    """The shelf at an address; a folder that is not absolute lies in the project's. Raises `Away`."""
    kind, sign, rest = asked.at.partition("://")
    if not sign:
        from wornpage.team.folder import Folder

        return Folder(project / Path(asked.at).expanduser())
    if kind not in KINDS:  # which the page has been told
        raise Away(f"there are no shelves at {kind}://")
    return KINDS[kind](rest, asked)


def _bucket(rest: str, asked: TeamStore) -> Shelf:
    from wornpage.team.s3 import Bucket

    bucket, _, prefix = rest.partition("/")
    return Bucket(bucket, prefix.strip("/"), asked.endpoint, asked.region)


KINDS: dict[str, Callable[[str, TeamStore], Shelf]] = {"s3": _bucket}

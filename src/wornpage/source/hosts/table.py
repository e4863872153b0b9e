"""The module that reads a page in a language of its own; imported only when there is one."""

from __future__ import annotations

from importlib import import_module
from pathlib import PurePath
from types import ModuleType

from wornpage.tree.hosts import HOSTS


def host_of(name: str) -> ModuleType | None:
    """The module that reads a page called so; None for Markdown."""
    known = HOSTS.get(PurePath(name).suffix.lower())
    return import_module(f"wornpage.source.hosts.{known[0]}") if known else None

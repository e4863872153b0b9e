"""Who asks what lies at a path, and how much of that matters: read off the calls that lead there."""

from __future__ import annotations

import fnmatch
from types import FrameType
from typing import NamedTuple

from wornpage.session.python.guards import guarded_lines
from wornpage.session.python.modules import is_local

_WAYS = frozenset(
    {"os", "genericpath", "posixpath", "ntpath", "pathlib", "pathlib._local", "wornpage.session.python.wrapped"}
)
"""Modules through which everybody asks."""
_SEARCHES = frozenset({"glob", "pathlib", "wornpage.session.python.wrapped"})
_ONLY_WHETHER = frozenset({"exists", "isfile", "isdir", "lexists", "islink", "is_file", "is_dir", "is_symlink"})
_MOST = 12


class Asker(NamedTuple):
    """Of one look."""

    only_whether: bool
    """Whether all that it tells is what kind of thing lies there, if any."""
    is_library: bool
    """Whether it is no code of the page or of its project."""
    makes: bool
    """Whether a folder is to be made that may be there already: then it does not matter whether it is."""
    with_others: bool = False
    """Whether those around it are made, too."""


def pattern_asked(frame: FrameType | None) -> str:
    """The pattern that names in a folder are held against (`store.files.matching`); empty where all count."""
    folders = ""
    for _ in range(_MOST):
        if frame is None or frame.f_globals.get("__name__") not in _SEARCHES:
            break
        of, name = frame.f_locals, frame.f_code.co_name
        if name == "_iterate_directories" or (name in {"_iterdir", "_rlistdir"} and of.get("dironly")):
            folders = "/(?s:.*)"
        if name == "_glob1":
            pattern = of.get("pattern")
            return folders[:1] + fnmatch.translate(pattern) if isinstance(pattern, str) else ""
        if name == "_select_from" and not folders:
            chooser = of.get("self")
            pattern = getattr(getattr(getattr(chooser, "match", None), "__self__", None), "pattern", None)
            return "/" * bool(getattr(chooser, "dironly", False)) + pattern if isinstance(pattern, str) else ""
        frame = frame.f_back
    return folders


def asker_of(frame: FrameType | None) -> Asker:
    """Who asks, by the frame that called what tells."""
    only_whether = makes = with_others = False
    for _ in range(_MOST):
        if frame is None or frame.f_globals.get("__name__") not in _WAYS:
            break
        name = frame.f_code.co_name
        only_whether = only_whether or name in _ONLY_WHETHER
        if name in {"makedirs", "mkdir"}:
            makes = makes or bool(frame.f_locals.get("exist_ok"))
            with_others = with_others or bool(frame.f_locals.get("parents", True))
        frame = frame.f_back
    if frame is not None and frame.f_code.co_filename.startswith("chunk:"):
        makes = makes or frame.f_lineno in guarded_lines(frame.f_code.co_filename)
    name = str(frame.f_globals.get("__name__", "")) if frame is not None else ""
    return Asker(only_whether, not (name == "__main__" or is_local(name)), makes, with_others)

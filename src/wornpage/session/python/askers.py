"""Who asks what lies at a path, and how much of that matters: read off the calls that lead there."""

from __future__ import annotations

import fnmatch
from types import FrameType
from typing import NamedTuple

from wornpage.session.python.guards import guarded_lines
from wornpage.session.python.modules import is_local

_OURS = "wornpage.session.python.wrapped"
_WAYS = frozenset({"os", "genericpath", "posixpath", "ntpath", "pathlib", "pathlib._local", _OURS})
"""Modules through which everybody asks."""
_SEARCHES = frozenset({"glob", "pathlib", _OURS})
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
    while frame is not None and frame.f_globals.get("__name__") == _OURS:
        frame = frame.f_back
    if _is_of_layer(frame):
        return _layers_pattern(frame)
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


def _is_of_layer(frame: FrameType | None) -> bool:
    """Whether it is the layer at work that libraries of data have for files of all kinds: it asks for all that can be told of each."""
    return frame is not None and str(frame.f_globals.get("__name__")).startswith("fsspec.")


def _layers_pattern(frame: FrameType | None) -> str:
    """The same for a search of that layer's, if it goes through one folder."""
    for _ in range(_MOST):
        if frame is None or not _is_of_layer(frame):
            break
        path = frame.f_locals.get("path")
        if frame.f_code.co_name == "glob" and isinstance(path, str):
            folder, _, pattern = path.rpartition("/")
            is_deeper = "**" in pattern or any(sign in folder for sign in "*?[")
            return "" if is_deeper else fnmatch.translate(pattern)
        frame = frame.f_back
    return ""


def asker_of(frame: FrameType | None) -> Asker:
    """Who asks, by the frame that called what tells."""
    only_whether = makes = with_others = False
    for _ in range(_MOST):
        if frame is None or not (frame.f_globals.get("__name__") in _WAYS or _is_of_layer(frame)):
            break
        name = frame.f_code.co_name
        only_whether = only_whether or name in _ONLY_WHETHER or (name == "glob" and not frame.f_locals.get("detail"))
        if name in {"makedirs", "mkdir"}:
            makes = makes or bool(frame.f_locals.get("exist_ok"))
            with_others = with_others or bool(frame.f_locals.get("parents", True))
        frame = frame.f_back
    if frame is not None and frame.f_code.co_filename.startswith("chunk:"):
        makes = makes or frame.f_lineno in guarded_lines(frame.f_code.co_filename)
    name = str(frame.f_globals.get("__name__", "")) if frame is not None else ""
    return Asker(only_whether, not (name == "__main__" or is_local(name)), makes, with_others)

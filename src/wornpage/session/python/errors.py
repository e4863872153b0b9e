"""What a chunk's exception was, as plain data: no frame of ours, lines relative to the chunk."""

from __future__ import annotations

import os
import sysconfig
import traceback
from types import TracebackType

from wornpage.session.python.hints import hint_for
from wornpage.session.python.values import without_addresses

_OURS = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
_HIDDEN = ("<frozen", _OURS, os.path.join(os.path.dirname(_OURS), "page.py"), "a mark")
"""How files begin whose frames say nothing to authors."""
_PREFIXES = sorted(
    {path for key in ("purelib", "platlib", "stdlib", "platstdlib") if (path := sysconfig.get_path(key))},
    key=len,
    reverse=True,
)
_READER = os.path.join(os.path.dirname(os.__file__), "ast.py")
_MAX_FRAMES = 60


def describe_error(raised: BaseException, trace: TracebackType | None) -> dict[str, object]:
    """Kind, message and frames of an exception and of those it came from, innermost cause first."""
    chain: list[dict[str, object]] = []
    seen: set[int] = set()
    current: BaseException | None = raised
    while current is not None and id(current) not in seen and len(chain) < 8:
        seen.add(id(current))
        chain.append(_one(current, trace if current is raised else current.__traceback__))
        hidden = current.__suppress_context__
        current = current.__cause__ or (None if hidden else current.__context__)
    return {
        "kind": type(raised).__name__,
        "name": getattr(raised, "name", None) if isinstance(raised, (NameError, ImportError)) else None,
        "status": _exit_status(raised),
        "hint": hint_for(raised, trace),
        "chain": chain[::-1],
    }


def _exit_status(raised: BaseException) -> str | None:
    return str(raised.code) if isinstance(raised, SystemExit) else None


def _one(raised: BaseException, trace: TracebackType | None) -> dict[str, object]:
    frames = [
        {"file": shorten(frame.filename), "line": frame.lineno or 0, "name": frame.name, "code": frame.line or ""}
        for frame in _frames(trace)
        if not frame.filename.startswith(_OURS)
    ]
    message = _message(raised)
    if isinstance(raised, SyntaxError) and raised.lineno:
        text = (raised.text or "").rstrip("\n")
        frames = [f for f in frames if f["name"] != "parse"]
        frames.append(
            {
                "file": shorten(raised.filename or ""),
                "line": raised.lineno,
                "name": "",
                "code": text,
                "column": raised.offset or 1,
            }
        )
        message = raised.msg
    return {"kind": type(raised).__name__, "message": message, "frames": frames}


def _frames(trace: TracebackType | None) -> list[traceback.FrameSummary]:
    found = list(traceback.StackSummary.extract(traceback.walk_tb(trace), lookup_lines=False))
    found = [frame for frame in found if not frame.filename.startswith(_HIDDEN)]
    if found and found[0].filename == _READER:  # we have it read
        found = found[1:]
    if len(found) > _MAX_FRAMES:  # an endless recursion says nothing more in its middle
        found = found[: _MAX_FRAMES // 2] + found[-_MAX_FRAMES // 2 :]
    return found


def _message(raised: BaseException) -> str:
    return without_addresses(_said(raised))


def _said(raised: BaseException) -> str:
    try:
        if (
            isinstance(raised, OSError)
            and isinstance(raised.filename, str)
            and raised.strerror
            and raised.filename2 is None
        ):
            return f"{raised.strerror}: {_as_written(raised.filename)}"
        return str(raised)
    except Exception:
        return "(its message cannot be shown)"


def _as_written(path: str) -> str:
    """A path in quotes; doubled backslashes would only confuse."""
    return f"'{path}'" if path.isprintable() else repr(path)


def shorten(path: str) -> str:
    """A path without what differs between machines: relative to the library or to the page's folder."""
    for prefix in _PREFIXES:
        if path.startswith(prefix + os.sep):
            return "library:" + path[len(prefix) + 1 :]
    here = os.getcwd() + os.sep
    if path.startswith(here):
        return path[len(here) :]
    if path.startswith(("chunk:", "<")) or (not os.path.isabs(path) and os.path.exists(path)):
        return path
    return "library:" + (
        os.path.basename(path) if os.path.isabs(path) else path
    )  # compiled code names its file otherwise

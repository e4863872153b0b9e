"""What was probably meant by code that failed: told while the objects that it failed on are still there.

Names that the page itself might define are not looked for here; who knows the page does that.
"""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Iterable, Mapping
from types import TracebackType

from wornpage.session.python.names import locals_of

_MOST = 12
"""Names that are listed; more are no help."""
_LONGEST = 60


def hint_for(raised: BaseException, trace: TracebackType | None) -> str:
    """A sentence or two; empty where nothing is to be said. Never fails."""
    for kind, tell in _HINTS.items():
        if isinstance(raised, kind):
            try:
                return tell(raised, trace)
            except BaseException:  # an object may object to being looked at
                return ""
    return ""


# --- names of columns, keys, attributes -------------------------------------------------------


def _key(raised: BaseException, trace: TracebackType | None) -> str:
    wanted = raised.args[0] if raised.args else None
    found = _columns(trace)
    if found is not None:
        return _among(str(wanted), found, "The columns are")
    keys = _keys(trace, wanted)
    return _among(str(wanted), keys, "The keys are") if keys is not None else ""


def _columns(trace: TracebackType | None) -> list[str] | None:
    """The columns of the frame that a failing call of a library was made on."""
    for names in _locals(trace):
        owner = names.get("self", names.get("obj"))
        owner = getattr(owner, "obj", owner)
        columns = getattr(owner, "columns", None)
        if columns is not None and not callable(columns):
            return [str(name) for name in list(columns)[:500]]
    return None


def _keys(trace: TracebackType | None, wanted: object) -> list[str] | None:
    """The keys of a mapping at hand that lacks `wanted` and has something like it."""
    for names in _locals(trace):
        for value in list(names.values()):
            if type(value) is dict and value and wanted not in value and len(value) < 500:
                keys = [key for key in value if isinstance(key, str)]
                if _close(str(wanted), keys, 1):
                    return keys
    return None


def _locals(trace: TracebackType | None) -> list[Mapping[str, object]]:
    """The names of each frame, the innermost first."""
    frames = []
    while trace is not None:
        frames.append(trace.tb_frame)
        trace = trace.tb_next
    # A page's names note who asks for them, and fetch what is not there: copied as they lie, they hear nothing of it.
    held = [locals_of(frame) for frame in reversed(frames)]
    return [dict(list(dict.items(one))) for one in held if isinstance(one, dict)]


def _attribute(raised: BaseException, trace: TracebackType | None) -> str:
    name, owner = getattr(raised, "name", None), getattr(raised, "obj", None)
    if not isinstance(name, str) or owner is None:
        return ""
    columns = getattr(owner, "columns", None)
    if columns is not None and not callable(columns):
        near = _close(name, [str(one) for one in list(columns)[:500]], 1)
        if near:
            return f"Did you mean the column {near[0]!r}?"
    return _near(name, (one for one in dir(owner) if not one.startswith("_")))


def _among(wanted: str, names: list[str], words: str) -> str:
    shown = ", ".join(name[:_LONGEST] for name in names[:_MOST]) + (", …" if len(names) > _MOST else "")
    return " ".join(filter(None, (_near(wanted, names), f"{words}: {shown}." if names else "")))


def _close(word: str, names: list[str], most: int) -> list[str]:
    from difflib import get_close_matches  # here, since most sessions have no fault to explain

    return get_close_matches(word, names, most)


def _near(wanted: str, names: Iterable[str]) -> str:
    found = _close(wanted, list(names), 1)
    return f"Did you mean {found[0]!r}?" if found else ""


# --- files ------------------------------------------------------------------------------------


def _file(raised: BaseException, trace: TracebackType | None) -> str:
    name = getattr(raised, "filename", None)
    if not isinstance(name, str):
        return ""
    if re.search(r"[\x00-\x1f]", name):
        return 'In a text a backslash begins a sign of its own, such as \\n: write r"…" before it, or / instead.'
    folder, file = os.path.split(name)
    near = _close(file, os.listdir(folder or "."), 1) if os.path.isdir(folder or ".") else []
    if near:
        return f"Did you mean {os.path.join(folder, near[0])!r}?"
    if folder and not os.path.isabs(name) and not os.path.isdir(folder):
        return f"There is no folder {folder!r} in the page's folder, where paths begin."
    return "Paths begin in the page's folder."


def _asked(raised: BaseException, trace: TracebackType | None) -> str:
    return "Nobody is there to answer while a page runs: declare the value under `given:` and use `given.NAME`."


# --- code that is none ------------------------------------------------------------------------

_NOTEBOOK = re.compile(r"\s*(%%?\w+|!\s*\w+|\?\w+|\w+\?\s*$)")


def _syntax(raised: BaseException, trace: TracebackType | None) -> str:
    text = getattr(raised, "text", None) or ""
    if match := _NOTEBOOK.match(text):
        what = "Install packages in the page's environment instead." if "pip" in text else "Take the line out."
        return f"`{match[1].strip()}` is a command of notebooks and no Python. {what}"
    if "'await' outside" in str(raised) or "'async" in str(raised):
        return "Put it into `async def main():` and write `asyncio.run(main())`."
    return ""


def _too_deep(raised: BaseException, trace: TracebackType | None) -> str:
    if "during" in str(raised):  # ast construction, or compilation
        return "One statement has too many terms, or brackets within brackets: break it up, or use `sum([…])`."
    return ""


def _memory(raised: BaseException, trace: TracebackType | None) -> str:
    import resource

    most, _ = resource.getrlimit(resource.RLIMIT_DATA)
    if most == resource.RLIM_INFINITY:
        return "The machine has no more memory to give."
    return f"A session of this page may take {most / 1e9:g} GB: `limits: {{memory: …}}`."


_HINTS: dict[type[BaseException], Callable[[BaseException, TracebackType | None], str]] = {
    SyntaxError: _syntax,
    KeyError: _key,
    AttributeError: _attribute,
    FileNotFoundError: _file,
    OSError: _file,
    EOFError: _asked,
    MemoryError: _memory,
    RecursionError: _too_deep,
}
"""By the kind of an exception, the more special ones first."""

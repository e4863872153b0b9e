"""The commonest command lines, `worn press PAGE [--as KINDS]` and `worn bind`: understood without the library for command lines."""

from __future__ import annotations

import json
import time
from pathlib import Path

from wornpage.cli.say import say, seconds
from wornpage.tree.hosts import usual_output
from wornpage.tree.version import VERSION

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.manifest import Manifest


def says_version(arguments: list[str]) -> bool:
    """Whether that is all that was asked; then it is said."""
    if arguments != ["--version"]:
        return False
    print(f"worn {VERSION}")
    return True


def plain_bind(arguments: list[str]) -> tuple[Path, str] | None:
    """The volume and the outputs of `bind [VOLUME] [--as KINDS]`; None for any other command line."""
    if arguments[:1] != ["bind"] or len(arguments) > 4:
        return None
    rest = arguments[1:]
    named = ["."] if not rest or (rest[:1] == ["--as"] and len(rest) == 2) else []
    return plain_press(["press", *named, *rest])


def plain_press(arguments: list[str]) -> tuple[Path, str] | None:
    """The page and the outputs of `press PAGE [--as KINDS]`; None for any other command line."""
    if len(arguments) not in {2, 4} or arguments[0] != "press":
        return None
    rest = arguments[1:]
    kinds = ""
    if len(rest) == 3:
        if "--as" not in rest[:2]:
            return None
        at = rest.index("--as")
        kinds = rest.pop(at + 1)
        rest.pop(at)
    if rest[0].startswith("-") or kinds.startswith("-"):
        return None
    page = Path(rest[0])
    return page, kinds or usual_output(page.suffix)


def nothing_to_do(page: Path, kinds: str, out: Path | None, as_json: bool) -> bool:
    """Whether all is as it was when the page was last pressed to these outputs; if so, say it."""
    from wornpage.plan.manifest import still_right

    begun = time.perf_counter()
    outputs = [kind.strip().lower() for kind in kinds.split(",") if kind.strip()] or ["html"]
    found = still_right(page, outputs, out, time.strftime("%Y-%m-%d"), VERSION)
    if found is None:
        return False
    why = "nothing it reads has changed"
    chunks = [{"label": label, "outcome": "reused", "seconds": took, "why": why} for label, took in found.chunks]
    say_unchanged(found, begun, {"chunks": chunks, "problems": []} if as_json else None)
    return True


def say_unchanged(found: Manifest, begun: float, further: dict[str, object] | None) -> None:
    """Tell that all is as it was; `further` is what JSON tells beside the outputs, None if it was not asked for."""
    if further is not None:
        written = [{"kind": kind, "path": path, "written": False} for kind, path in found.outputs]
        print(json.dumps({"outputs": written, **further}, ensure_ascii=False, indent=2))
        return
    for warning in found.warnings:
        say(warning)
    for _, path in found.outputs:
        print(f"{path}  (unchanged)")
    say(f"nothing to do ({seconds(time.perf_counter() - begun)})")

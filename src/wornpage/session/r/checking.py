"""What is wrong with the R code of a page, as R itself reads it; nothing of it is run."""

from __future__ import annotations

import subprocess
from collections.abc import Sequence
from pathlib import Path
from typing import Any, cast

from wornpage.session.environment import session_environment
from wornpage.session.language import Fault
from wornpage.session.r.plain import packed, plain
from wornpage.session.r.shown import several
from wornpage.session.r.stream import read
from wornpage.session.r.where import program
from wornpage.tree.problem import near_miss

_FAR = Path(__file__).parent / "far"
_PATIENCE = 60.0


def faults(codes: Sequence[tuple[str, str]]) -> list[Fault]:
    """Faults in code by label, in page order; none where R is not there or does not answer."""
    told = packed([{"label": label, "code": code} for label, code in codes])
    try:
        done = subprocess.run(
            [program(), "--vanilla", "--no-echo", "-f", str(_FAR / "checking.R")], input=told, capture_output=True, timeout=_PATIENCE,
            check=True, env={**session_environment(None), "WORN_FAR": str(_FAR)},
        )  # fmt: skip
        found = cast("dict[str, Any]", plain(read(done.stdout)))
    except (OSError, ValueError, subprocess.SubprocessError):
        return []
    known = several(found["known"])
    return [_fault(one, known) for one in several(found["faults"])]


def _fault(told: dict[str, Any], known: list[str]) -> Fault:
    name, hint, what = told["name"], told["hint"] or "", told["what"] or ""
    match told["kind"]:
        case "packages":
            what, hint = f"the package {name!r} is not installed.", f'Install it: `install.packages("{name}")`.'
        case "names" if what:
            return Fault("names", told["label"], told["line"], told["column"], f"{name!r} is not there yet.", "", what)
        case "names":
            what = f"nothing defines {name!r}."
            near = f"Did you mean {told['near']!r}?" if told.get("near") else near_miss(name, known)
            hint = f"Add `library({hint})` above." if hint else near
        case _:
            what = f"{what}."
    return Fault(told["kind"], told["label"], told["line"], told["column"], what, hint)

"""Ordinary pages that are hard on the law, written by hand: `python -m tests.law.ordinary [NAME …]` tries them all.

Each case has files and steps; a step has chunks, code by label, in page order, or the text of a whole page. Those marked `kept` have broken the law
before, and are tried with every test. What a case `needs` is a package that is too large to be installed for tests: it is tried where it is there.
"""

from __future__ import annotations

import json
import os
import re
import sys
from concurrent.futures import ProcessPoolExecutor
from importlib.util import find_spec
from pathlib import Path
from typing import Any

from tests.hazards import Report, try_case

_SLOW = re.compile(
    r"import (?:sklearn|polars|networkx|matplotlib|scipy|xarray|plotly|altair|dask)|from (?:sklearn|scipy|matplotlib)"
)
"""Libraries that take a second to import, once for each pressing from nothing."""


def cases(kept: bool = False) -> list[dict[str, Any]]:
    """All of them, or, of those that have broken the law before, as many as fit into every test, as `tests.hazards` takes them.

    Of those with libraries that take long to import every other one does.
    """
    found = json.loads((Path(__file__).parent / "ordinary.json").read_text(encoding="utf-8"))
    there = [case for case in found if "needs" not in case or find_spec(case["needs"])]
    if not kept:
        return [_whole(case) for case in there]
    chosen = [case for case in there if case.get("kept")]
    slow = [case for case in chosen if _SLOW.search(json.dumps(case))]
    return [_whole(case) for case in chosen if case not in slow[1::2]]


def _whole(case: dict[str, Any]) -> dict[str, Any]:
    return {"files": {}, **case, "steps": [_with_chunks(step) for step in case["steps"]]}


def _with_chunks(step: dict[str, Any]) -> dict[str, Any]:
    chunks = step.get("chunks", {})
    return {**step, "chunks": [{"label": label, "code": code, "may_fail": True} for label, code in chunks.items()]}


def tried(chosen: list[dict[str, Any]]) -> list[Report]:
    """What came of cases, tried on all processors."""
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        return list(pool.map(_tried_one, chosen))


def _tried_one(case: dict[str, Any]) -> Report:
    """A case; a fault of ours breaks the law too, and stops no other."""
    try:
        return try_case(case)
    except Exception as fault:
        return Report(case["name"], broken=[f"{type(fault).__name__}: {fault}"])


def main(names: list[str]) -> int:
    """Try the cases of these names, or all; exit status 1 if the law is broken anywhere."""
    reports = tried([case for case in cases() if not names or case["name"] in names])
    for report in reports:
        for broken in report.broken:
            print(f"{report.name}: {broken}")
    print(f"{len(reports)} cases, {sum(bool(report.broken) for report in reports)} at fault")
    return int(any(report.broken for report in reports))


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))

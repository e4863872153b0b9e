"""Pages next to plain Python: chunks pressed from nothing print what the same code prints in one process, one after the other.

`python -m tests.law.plain [CASES.json]` tries the kept pages, or the first steps of a file of cases (`tests.hazards`).
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from itertools import zip_longest
from pathlib import Path
from typing import Any

from tests.hazards import other_files, write_files
from wornpage.press import press
from wornpage.press.orders import PressingFailed
from wornpage.session.results import ChunkResult, Printed

_PLAIN = """
import io, json, sys, types
chunks = json.load(sys.stdin)
main = sys.modules["__main__"] = types.ModuleType("__main__")
sys.path[0] = ""
told, into, out = [], io.StringIO(), sys.stdout
sys.stdout = into
for code in chunks:
    begun, raised = into.tell(), ""
    try:
        exec(compile(code, "chunk", "exec"), main.__dict__)
    except BaseException as error:
        raised = type(error).__name__
    told.append(into.getvalue()[begun:] + raised)
    if raised:
        break
json.dump(told, out)
"""
"""Runs chunks as a script of theirs would run, and says what each has printed."""


def differences(chunks: list[str], files: dict[str, str | None]) -> list[str]:
    """Chunks that print, or raise, something else on a page than in plain Python, with both; where one raises, both end.

    First of all files that are others in the end.
    """
    with tempfile.TemporaryDirectory(prefix="worn-plain-") as name:
        ways = [Path(name, way) for way in ("plain", "pressed")]
        for folder in ways:
            folder.mkdir()
            write_files(folder, files)
        plain, pressed = _plain(chunks, ways[0]), _pressed(chunks, ways[1])
        other = other_files(ways[1], ways[0])
    return [other] * bool(other) + [
        f"chunk {number}: {on_page!r} instead of {by_script!r}"
        for number, (by_script, on_page) in enumerate(zip_longest(plain, pressed))
        if by_script != on_page
    ]


def _plain(chunks: list[str], folder: Path) -> list[str]:
    done = subprocess.run(
        [sys.executable, "-c", _PLAIN], cwd=folder, input=json.dumps(chunks), capture_output=True, text=True, check=True
    )
    told: list[str] = json.loads(done.stdout)
    return told


def _pressed(chunks: list[str], folder: Path) -> list[str]:
    text = "".join(f"````python run #c{number}\n{code}\n````\n\n" for number, code in enumerate(chunks))
    page = folder / "page.md"
    page.write_text(text, encoding="utf-8")
    try:
        outcomes = press(page).chunks
    except PressingFailed as failed:
        outcomes = failed.chunks
    return [_told(one.result) for one in outcomes if one.result]


def _told(result: ChunkResult) -> str:
    printed = "".join(one.text for one in result.shown if isinstance(one, Printed) and one.role == "output")
    return printed + (result.failure.last.kind if result.failure else "")


def main(arguments: list[str]) -> int:
    """Exit status 1 if a page prints something else anywhere."""
    bad = 0
    for name, chunks, files in pages(*arguments):
        found = differences(chunks, files)
        bad += bool(found)
        for one in found:
            print(f"{name}: {one}", flush=True)
    print(f"{bad} pages print something else")
    return int(bad > 0)


def pages(path: str = "") -> list[tuple[str, list[str], dict[str, str | None]]]:
    """Names, chunks and files of the kept pages, or of those in a file of cases."""
    cases: list[dict[str, Any]] = json.loads(Path(path or Path(__file__).with_suffix(".json")).read_text("utf-8"))
    if not path:
        return [(case["name"], case["chunks"], case.get("files", {})) for case in cases]
    first = [(case, case["steps"][0]) for case in cases if "chunks" in case["steps"][0]]
    return [
        (case["name"], [chunk["code"] for chunk in step["chunks"]], {**case["files"], **step.get("files", {})})
        for case, step in first
    ]


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))

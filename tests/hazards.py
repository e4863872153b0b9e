"""Pages and edits that try to break the law: each step pressed with the store and from nothing gives the same bytes.

`python -m tests.hazards CASES.json [NAME …]` reports every step that breaks it, every chunk that had to run and did
not, and every chunk that ran needlessly.
"""

from __future__ import annotations

import json
import os
import re
import shutil
import sys
import tempfile
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from tests.beside import side_by_side
from wornpage.press import press
from wornpage.tree.problem import PageError

_OTHER_EACH_TIME = frozenset({".html", ".md", ".gz", ".zip"})
"""Endings of pages, and of files that hold the time when they were made."""
_NO_DATA = frozenset({"token.txt", "worn.yaml"})
"""A file that a case fills at random, and what is only said of a team's store where the page is pressed with it."""
_ADDRESS = re.compile(rb"0x[0-9a-f]{8,}")
"""Where something lies in memory, which is elsewhere in each process."""
_AT_ONCE = 3
"""How many chunks run at once where a page is pressed with its store."""


@dataclass
class Report:
    """What a case came to."""

    name: str
    broken: list[str] = field(default_factory=list)
    """Steps whose outputs differ, or that failed."""
    missed: list[str] = field(default_factory=list)
    """Chunks that had to run and did not."""
    needless: list[str] = field(default_factory=list)
    """Chunks that ran though nothing they depend on changed."""
    ahead: list[str] = field(default_factory=list)
    """Chunks of which what they came to before their turn was taken."""


def page_text(step: dict[str, Any]) -> str:
    """The page of a step: as it stands, or made of its chunks."""
    if "page" in step:
        return str(step["page"])
    given = json.dumps(step.get("given", {}), ensure_ascii=False)
    parts = [f"---\ntitle: t\ngiven: {given}\n---\n"]
    for chunk in step["chunks"]:
        fails = " on-error=show" if chunk.get("may_fail") else ""
        parts.append(f"````python run #{chunk['label']}{fails}\n{chunk['code']}\n````\n")
    return "\n".join(parts)


def write_files(folder: Path, files: dict[str, str | None], keep_time: bool = False) -> None:
    """Write, or with None delete, the files of a step; those whose names end with a stroke are folders."""
    for name, text in files.items():
        path = folder / name
        before = path.stat() if path.exists() else None
        if text is None:
            shutil.rmtree(path) if path.is_dir() else path.unlink(missing_ok=True)
            continue
        if name.endswith("/"):
            path.mkdir(parents=True, exist_ok=True)
            continue
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text, encoding="utf-8")
        if keep_time and before is not None:
            os.utime(path, ns=(before.st_atime_ns, before.st_mtime_ns))


def pressed(folder: Path, text: str) -> tuple[str, list[str]]:
    """The output of a page, or its error, and the labels of the chunks that ran."""
    page = folder / "page.md"
    page.write_text(text, encoding="utf-8")
    try:
        done = press(page)
    except PageError as error:
        return f"error: {error}".replace(str(folder), ""), []
    ran = [chunk.label for chunk in done.chunks if chunk.outcome != "reused"]
    return (folder / "page.html").read_text(encoding="utf-8"), ran


def copy_files(folder: Path, to: Path) -> None:
    """Everything of a folder, but for what is ours."""
    shutil.copytree(
        folder, to, symlinks=True, ignore=shutil.ignore_patterns(".worn", "__pycache__", "page.md", "page.html")
    )


def try_case(case: dict[str, Any]) -> Report:
    """Press every step of a case both ways."""
    report = Report(case["name"])
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place) / "kept"
        folder.mkdir()
        write_files(folder, case["files"])
        for number, step in enumerate(case["steps"]):
            write_files(folder, step.get("files", {}), step.get("keep_mtime", False))
            text = page_text(step)
            clean = Path(place) / f"clean{number}" / "kept"
            copy_files(folder, clean)
            with side_by_side(_AT_ONCE) as taken:
                made, ran = pressed(folder, text)
            report.ahead += taken
            with side_by_side(1):
                # The first pressing is one from nothing, unless chunks ran ahead of their turn.
                wanted, _ = pressed(clean, text) if number or taken else (made, ran)
            if made != wanted:
                report.broken.append(f"step {number}: {difference(made, wanted)}")
            elif number and (other := other_files(folder, clean)):
                report.broken.append(f"step {number}: {other}")
            report.missed += [f"{number}:{label}" for label in step.get("must_run", []) if label not in ran]
            report.needless += [f"{number}:{label}" for label in step.get("may_reuse", []) if label in ran]
    return report


def other_files(folder: Path, clean: Path) -> str:
    """Which files two folders hold that are not alike, beside pages and what is ours; empty for none."""
    here, there = _held(folder), _held(clean)
    return ", ".join(
        f"{name} holds {here.get(name)!r:.60} instead of {there.get(name)!r:.60}"
        for name in sorted(here.keys() | there.keys())
        if here.get(name) != there.get(name)
    )


def _held(folder: Path) -> dict[str, bytes]:
    held = {}
    for place, folders, names in os.walk(folder):
        folders[:] = [name for name in folders if name not in {".worn", "__pycache__"}]
        for path in (Path(place) / name for name in names):
            if path.suffix not in _OTHER_EACH_TIME and path.name not in _NO_DATA and path.is_file():
                held[str(path.relative_to(folder))] = _ADDRESS.sub(b"0x", path.read_bytes())
    return held


def difference(made: str, wanted: str) -> str:
    """The first line in which two outputs differ, in words."""
    a, b = made.splitlines(), wanted.splitlines()
    for x, y in zip(a, b, strict=False):
        if x != y:
            return f"{x[-150:]!r} instead of {y[-150:]!r}"
    return f"{len(a)} lines instead of {len(b)}: {(a + b)[-1][-200:]!r}"


def main(arguments: list[str]) -> int:
    """Try the cases of a file, or those named; exit status 1 if the law is broken anywhere."""
    cases = json.loads(Path(arguments[0]).read_text(encoding="utf-8"))
    wanted = arguments[1:]
    with ProcessPoolExecutor() as pool:
        reports = list(pool.map(try_case, [case for case in cases if not wanted or case["name"] in wanted]))
    for report in reports:
        for line in report.broken:
            print(f"{report.name}: {line}")
        if report.missed:
            print(f"{report.name}: did not run {', '.join(report.missed)}")
        if report.needless:
            print(f"{report.name}: ran needlessly {', '.join(report.needless)}")
    bad = sum(bool(report.broken or report.missed) for report in reports)
    needless = sum(len(report.needless) for report in reports)
    print(f"{len(reports)} cases, {bad} at fault, {needless} needless runs")
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))

"""Above each chunk: run it, or all down to it, and show what it shows."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

from lsprotocol import types as t

from wornpage.assist.document import Document

RUN = "worn.run"
_PATIENCE = 3_600
_SHORT = 14
"""Lines that a message holds; the rest stands in the editor's log."""
Tell = Callable[[t.MessageType, str], None]


def lenses(document: Document, uri: str) -> Iterator[t.CodeLens]:
    """Those of a page's own chunks."""
    for chunk in document.page.chunks:
        if chunk.span.file != document.path.name or chunk.span.within:
            continue
        place = t.Range(t.Position(chunk.span.line - 1, 0), t.Position(chunk.span.line - 1, 0))
        for title, how in (("run this chunk", "--only"), ("run all down to here", "--up-to")):
            yield t.CodeLens(place, t.Command(title, RUN, arguments=[uri, how, chunk.label]))


def run_chunk(path: Path, how: str, label: str, show: Tell, log: Tell) -> None:
    """Run a chunk of a page as it is on the disk, and say what it showed. It takes as long as it takes."""
    if how not in {"--only", "--up-to"}:
        return
    command = [sys.executable, "-P", "-m", "wornpage", "run", path.name, how, label]
    try:
        done = subprocess.run(
            command,
            cwd=path.parent,
            capture_output=True,
            text=True,
            timeout=_PATIENCE,
            check=False,
            stdin=subprocess.DEVNULL,
        )
    except (OSError, subprocess.TimeoutExpired) as error:
        show(t.MessageType.Error, f"{label} could not be run: {error}")
        return
    said = (done.stdout if done.returncode == 0 else done.stderr or done.stdout).strip()
    said = said or f"{label} has run, and shows nothing"
    log(t.MessageType.Info, said)
    lines = said.split("\n")
    cut = f"\n… {len(lines) - _SHORT} more lines in the log" if len(lines) > _SHORT else ""
    kind = t.MessageType.Info if done.returncode == 0 else t.MessageType.Error
    show(kind, "\n".join(lines[:_SHORT]) + cut)

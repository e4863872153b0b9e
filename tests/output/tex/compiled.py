"""Compile a source as a collaborator would, and read its sheets."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path


def sheets_of(source: Path, engine: str = "pdflatex", runs: int = 2) -> str:
    """The text of its sheets, one space between words. Raises `AssertionError` with what the compiler says."""
    command = [
        engine,
        "-interaction=nonstopmode",
        "-halt-on-error",
        "-file-line-error",
        "-no-shell-escape",
        source.name,
    ]
    for _ in range(runs):
        done = subprocess.run(
            command, cwd=source.parent, capture_output=True, text=True, errors="replace", check=False, stdin=subprocess.DEVNULL
        )  # fmt: skip
        if done.returncode:
            raise AssertionError(done.stdout[-2000:])
    pdf = source.with_suffix(".pdf")
    made = subprocess.run(["pdftotext", "-raw", str(pdf), "-"], capture_output=True, text=True, check=True)
    return re.sub(r"\s+", " ", made.stdout.replace("ﬁ", "fi").replace("ﬂ", "fl"))

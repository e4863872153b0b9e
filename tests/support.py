"""What many tests need: a folder of their own, the program, a page pressed from its text."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
import tempfile
import textwrap
import unittest
from pathlib import Path
from typing import Any

from wornpage.press import press
from wornpage.tree.problem import PageError, Problem

if signal.getsignal(signal.SIGINT) is signal.SIG_IGN:
    # A shell may ignore Ctrl-C for what runs in the background; the programs that tests start are sent it, and must heed it.
    signal.signal(signal.SIGINT, signal.default_int_handler)


class FolderCase(unittest.TestCase):
    """A test with a folder of its own, `self.folder`."""

    def setUp(self) -> None:
        place = tempfile.TemporaryDirectory(prefix="worn test ü ")
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name)

    def write(self, name: str, text: str | bytes) -> Path:
        """A file in the folder; text is taken without its common indentation."""
        path = self.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(text if isinstance(text, bytes) else textwrap.dedent(text).removeprefix("\n").encode())
        return path

    def html(self, text: str, **options: Any) -> str:
        """The HTML of a page with this text."""
        path = self.write("page.md", text)
        press(path, ["html"], **options)
        return re.sub(r"(?s)<style>.*</style>", "", path.with_suffix(".html").read_text(encoding="utf-8"), count=1)

    def faults(self, text: str, outputs: tuple[str, ...] = ("html",)) -> tuple[Problem, ...]:
        """What is wrong with a page; fails if nothing is."""
        with self.assertRaises(PageError) as caught:
            press(self.write("page.md", text), outputs)
        return caught.exception.problems

    def fault_places(self, text: str) -> list[tuple[int, int]]:
        """Line and column of each fault of a page."""
        return [(problem.span.line, problem.span.column) for problem in self.faults(text)]


def worn(*arguments: str | Path, folder: Path, timeout: float = 120) -> subprocess.CompletedProcess[str]:
    """Run the real program."""
    return subprocess.run(
        [sys.executable, "-m", "wornpage", *map(str, arguments)],
        cwd=folder,
        capture_output=True,
        text=True,
        timeout=timeout,
        env={**os.environ, "NO_COLOR": "1"},
        check=False,
    )

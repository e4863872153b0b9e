"""The recipe for machines that watch a repository, as the guide gives it: it fails on surprise, and not otherwise."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from tests.support import FolderCase

RECIPE = Path(__file__).parent.parent / "docs" / "watch.sh"
PAGE = "Of {= 100 + 1} rooms, {= 7} are damp.\n"


class Recipe(FolderCase):
    def watch(self, **settings: str) -> int:
        programs = f"{Path(sys.executable).parent}{os.pathsep}{os.environ['PATH']}"
        env = {**os.environ, "PATH": programs, **settings}
        return subprocess.run(["sh", str(RECIPE), "page.md"], cwd=self.folder, env=env, capture_output=True, check=False).returncode  # fmt: skip

    def test_it_fails_where_a_number_has_changed_by_more_than_expected(self) -> None:
        self.write("page.md", PAGE)
        self.assertEqual([self.watch(), self.watch(RELEASE="yes"), self.watch()], [0, 0, 0])
        self.assertTrue((self.folder / "page.release.json").exists())
        self.write("page.md", PAGE.replace("100 + 1", "100 + 9"))
        self.assertEqual([self.watch(), self.watch(OVER="20%")], [1, 0])
        self.write("page.md", PAGE.replace("100 + 1", "nothing"))
        self.assertEqual(self.watch(), 1)

"""A page as it stood in a commit: run elsewhere, with what the repository lacks beside it, and nothing here touched."""

from __future__ import annotations

import json
import subprocess

from tests.support import FolderCase, worn

PAGE = """
    ```python run #load
    from pathlib import Path
    notes = Path("notes.txt").read_text()
    Path("notes.txt").write_text(notes + "old ")
    if not Path("count.txt").exists():
        Path("count.txt").write_text("7 old")
    rows = len(Path("local/rows.csv").read_text().split())
    ```

    There are {= rows} rows and {= 1} rule.
    """


class Commits(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.page = self.write("page.md", PAGE)
        self.write("local/rows.csv", "a\nb\n")
        self.write(".gitignore", "local\nnotes.txt\n")
        (self.folder / "machine").symlink_to("/etc/hostname")
        for command in (
            ["init", "-q"],
            ["add", "page.md", ".gitignore", "machine"],
            ["-c", "user.name=a", "-c", "user.email=a@b", "commit", "-qm", "one"],
        ):
            subprocess.run(["git", *command], cwd=self.folder, check=True)
        self.write("page.md", PAGE.replace("old", "next").replace("{= 1} rule", "{= 2} rule"))
        self.write("notes.txt", "mine ")

    def test_the_folder_at_hand_stays_as_it_is(self) -> None:
        done = worn("press", "page.md", folder=self.folder)
        self.assertEqual(done.returncode, 0, done.stderr)
        before = {
            path: (path.read_bytes(), path.stat().st_mtime_ns)
            for path in (self.folder / "notes.txt", self.folder / "local/rows.csv")
        }
        count = (self.folder / "count.txt").read_bytes()
        done = worn("compare", "page.md", "--with", "HEAD", "--json", folder=self.folder)
        self.assertEqual(done.returncode, 0, done.stderr)
        changes = json.loads(done.stdout)["changes"]
        self.assertIn(("1", "2"), {(one.get("before"), one.get("after")) for one in changes})
        for path, held in before.items():
            self.assertNotIn(b"old", path.read_bytes())
            if path.name == "rows.csv":
                self.assertEqual((path.read_bytes(), path.stat().st_mtime_ns), held)
        self.assertEqual((self.folder / "count.txt").read_bytes(), count)

    def test_what_no_commit_has_is_told(self) -> None:
        self.write("late.md", "Of {= 1}.\n")
        done = worn("compare", "late.md", "--with", "HEAD", folder=self.folder)
        self.assertEqual((done.returncode, "not in the commit HEAD" in done.stderr), (2, True), done.stderr)

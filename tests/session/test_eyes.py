"""What the system tells of files in a folder, and of whom."""

from __future__ import annotations

import ctypes
import os
import subprocess
import sys
import unittest

from tests.support import FolderCase
from wornpage.session.eyes import Eyes, Sight, _Inotify, eyes_on


@unittest.skipUnless(sys.platform == "linux", "Linux alone tells")
class Watched(FolderCase):
    def seen(self, eyes: Eyes) -> set[Sight]:
        """What is seen of things done here and by another process."""
        read, other, written = self.write("a.txt", "a"), self.write("b.txt", "b"), self.folder / "deep" / "new.txt"
        eyes.drain()
        read.read_text()
        subprocess.run([sys.executable, "-c", "open('b.txt').read()"], cwd=self.folder, check=True)
        written.parent.mkdir()
        written.write_text("c")
        seen = set(eyes.drain())
        written.write_text("d")
        seen |= set(eyes.drain())
        self.assertEqual({sight.path for sight in seen}, {str(read), str(other), str(written.parent), str(written)})
        bytes_of = {sight.path for sight in seen if sight.with_bytes}
        self.assertEqual((str(read) in bytes_of, str(other) in bytes_of, str(written) in bytes_of), (True, True, False))
        return {sight._replace(with_bytes=False) for sight in seen}

    def test_files_are_seen_whoever_opens_them(self) -> None:
        seen = self.seen(_Inotify(ctypes.CDLL(None, use_errno=True), str(self.folder)))
        self.assertIn(Sight(str(self.folder / "b.txt"), False, False), seen)
        self.assertIn(Sight(str(self.folder / "deep" / "new.txt"), True, False), seen)

    def test_what_python_opens_in_compiled_form_is_its_source(self) -> None:
        self.write("part.py", "x = 1")
        eyes = _Inotify(ctypes.CDLL(None, use_errno=True), str(self.folder))
        command, plain = [sys.executable, "-c", "import part"], {**os.environ, "PYTHONDONTWRITEBYTECODE": ""}
        for _ in range(2):  # the second opens nothing else
            subprocess.run(command, cwd=self.folder, check=True, env=plain)
            self.assertIn(
                (str(self.folder / "part.py"), False), {(sight.path, sight.changed) for sight in eyes.drain()}
            )

    def test_where_the_system_tells_it_is_known_who_did_it(self) -> None:
        self.write("page.md", "")
        eyes = eyes_on(str(self.folder))
        if not eyes.tell_who:
            self.skipTest("this system does not tell")
        seen = self.seen(eyes)
        self.assertIn(Sight(str(self.folder / "a.txt"), False, True, here=True), seen)
        self.assertIn(Sight(str(self.folder / "b.txt"), False, False), seen)
        self.assertIn(Sight(str(self.folder / "deep" / "new.txt"), True, True, here=True), seen)

    def test_a_folder_that_is_taken_away_and_made_anew_is_watched_on(self) -> None:
        self.write("page.md", "")
        self.write("out/a.txt", "1")
        eyes = eyes_on(str(self.folder))
        (self.folder / "out" / "a.txt").unlink()
        (self.folder / "out").rmdir()
        (self.folder / "out").mkdir()
        eyes.drain()
        self.write("out/b.txt", "2")
        self.assertIn(str(self.folder / "out" / "b.txt"), {sight.path for sight in eyes.drain() if sight.changed})

    def test_what_goes_with_a_folder_is_told_by_both_names(self) -> None:
        self.write("page.md", "")
        self.write("out/deep/a.txt", "1")
        eyes = eyes_on(str(self.folder))
        (self.folder / "out").rename(self.folder / "new")
        taken = {sight.path: sight.taken_to for sight in eyes.drain() if sight.taken_to}
        both = {str(self.folder / "out" / name): str(self.folder / "new" / name) for name in ("deep", "deep/a.txt")}
        self.assertEqual(taken, both | {str(self.folder / "out"): str(self.folder / "new")})

    def test_going_through_a_new_folder_to_watch_it_is_no_look(self) -> None:
        self.write("page.md", "")
        eyes = eyes_on(str(self.folder), with_folders=True)
        for folder in ("new", "new/deeper"):
            subprocess.run(
                ["sh", "-c", f"mkdir {folder} && echo 1 > {folder}/a.txt && sleep 0.05"], cwd=self.folder, check=True
            )
            seen = [*eyes.drain(), *eyes.drain()]
            self.assertIn(str(self.folder / folder / "a.txt"), {sight.path for sight in seen if sight.changed})
            self.assertEqual([sight for sight in seen if sight.is_folder and not sight.changed], [])
        list((self.folder / "new").iterdir())
        self.assertTrue(any(sight.path == str(self.folder / "new") for sight in eyes.drain()))

"""The page's own Python: found beside it or named, bare or with packages, and told in words where it cannot be had."""

import subprocess
import sys

from tests.languages.test_bash import Pages, chunk
from wornpage.press import press
from wornpage.session.python.environments import choose
from wornpage.tree.problem import PageError


class Environments(Pages):
    CODE = "import sys\nprint(sys.prefix.rpartition('/')[2])\nx = {'a': [1, 2]}"

    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(choose, "own", [])

    def made(self, name: str) -> None:
        subprocess.run([sys.executable, "-m", "venv", "--without-pip", self.folder / name], check=True)

    def told(self, python: str, *chunks: str) -> list[str]:
        self.HEAD = f"---\ntitle: t\npython: {python}\n---\n\n"
        return self.pressed(*chunks)

    def test_a_bare_environment_runs_pages_and_they_are_reused(self) -> None:
        self.made("bare")
        self.write("in.txt", "read\n")
        page = [chunk("a", self.CODE, language="python"), chunk("b", "class P:\n    def f(self): return x['a'], open('in.txt').read()\np = P()\nprint(p.f())", language="python"), "{= len(x)}"]  # fmt: skip
        self.assertEqual(self.told("bare", *page), ["a", "b"])
        self.assertEqual([one.strip() for one in self.shown()], ["bare", "([1, 2], 'read\\n')"])
        self.assertEqual(self.told("bare", *page, "Words."), [])
        self.assertTrue(press(self.folder / "p.md").chunks)
        page[0] = page[0].replace("[1, 2]", "[1, 3]")
        self.assertEqual(self.told("bare", *page), ["a", "b"])
        self.assertEqual(self.told("own", *page), ["a", "b"], "another Python is another interpreter")

    def test_one_beside_the_page_is_taken_unasked_with_its_packages(self) -> None:
        page = [
            chunk("a", "import toy, sys\nprint(sys.prefix.rpartition('/')[2], toy.SIZE)", language="python"),
            chunk("b", "1", language="python"),
        ]
        self.made(".venv")
        place = next((self.folder / ".venv" / "lib").glob("python*/site-packages"))
        for version, size in (("1.0", 3), ("1.1", 44)):
            (place / "toy.py").write_text(f"SIZE = {size}\n", encoding="utf-8")
            for old in place.glob("toy-*"):
                old.rename(place / f"toy-{version}.dist-info")
            told = place / f"toy-{version}.dist-info"
            told.mkdir(exist_ok=True)
            (told / "METADATA").write_text(f"Name: toy\nVersion: {version}\n", encoding="utf-8")
            (told / "RECORD").write_text("toy.py,,\n", encoding="utf-8")
            self.assertEqual(self.pressed(*page), ["a", "b"] if version == "1.0" else ["a"])
            self.assertEqual(next(one.strip() for one in self.shown()), f".venv {size}")

    def test_what_cannot_be_had_is_told(self) -> None:
        self.made("broken")
        link = self.folder / "broken" / "bin" / "python"
        link.unlink()
        link.symlink_to("/nowhere/python")
        old = self.write("old", '#!/bin/sh\necho \'["3.8", [3, 8], "/x", ["/x"], true]\'\n')
        old.chmod(0o755)
        (self.folder / "empty").mkdir()
        for python, words in (("nowhere", "there is no Python at 'nowhere'"), ("broken", "is a broken link"), ("empty", "there is no Python in 'empty'"), ("old", "is 3.8; sessions need 3.10 or later")):  # fmt: skip
            with self.subTest(python), self.assertRaises(PageError) as told:
                self.told(python, chunk("a", "1", language="python"))
            self.assertIn(words, str(told.exception))

"""The page's own Python: found beside it or named, bare or with packages, and told in words where it cannot be had."""

import ast
import shutil
import subprocess
import sys
from pathlib import Path

import wornpage
from tests.languages.test_bash import Pages, chunk
from wornpage.press import press
from wornpage.session.python.environments import OLDEST, choose
from wornpage.tree.problem import PageError

SOURCES = Path(wornpage.__file__).parent.parent


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

    def test_what_a_session_loads_is_code_of_the_oldest_python(self) -> None:
        """Read as such; and run, with all it has to do, by whatever other Pythons there are."""
        asked = "import sys; sys.path.insert(0, {!r}); import {}; print(*(one.__file__ for name, one in sys.modules.items() if name.startswith('wornpage')), sep='\\n')"
        roots = "tracker account asked fits figures statistics tables forking stills styled hints showing driver"
        modules = ", ".join([*(f"wornpage.session.python.{one}" for one in roots.split()), "wornpage.session.crossing.telling", "wornpage.session.crossing.taking", "wornpage.session.sql.running"])  # fmt: skip
        told = subprocess.run(
            [sys.executable, "-c", asked.format(str(SOURCES), modules)], capture_output=True, text=True, check=True
        )
        files = told.stdout.split()
        self.assertGreater(len(files), 60)
        for file in files:
            ast.parse(Path(file).read_text(encoding="utf-8"), feature_version=OLDEST)
        for minor in range(OLDEST[1], 15):
            program = shutil.which(f"python3.{minor}")
            if (
                program
                and minor != sys.version_info[1]
                and subprocess.run([program, "-c", ""], check=False, capture_output=True).returncode == 0
            ):
                code = "import pathlib\ndef g():\n    try:\n        yield 1\n    finally:\n        print('end')\nit = g(); next(it); f = lambda: it"
                page = [chunk("a", code, language="python"), chunk("b", "print(next(f(), 'over'), pathlib.Path('none').exists())\npage.table({'n': [1, 2]})", language="python")]  # fmt: skip
                with self.subTest(program):
                    self.assertEqual(self.told(program, *page), ["a", "b"])
                    self.assertEqual(self.told(program, *page, "{= len(f.__name__)}"), [])

    def test_what_cannot_be_had_is_told(self) -> None:
        self.made("broken")
        link = self.folder / "broken" / "bin" / "python"
        link.unlink()
        link.symlink_to("/nowhere/python")
        old = self.write("old", '#!/bin/sh\necho \'["3.8", [3, 8], "/x", ["/x"], true]\'\n')
        old.chmod(0o755)
        (self.folder / "empty").mkdir()
        for python, words in (("nowhere", "there is no Python at 'nowhere'"), ("broken", "is a broken link"), ("empty", "there is no Python in 'empty'"), ("old", "is 3.8; sessions need 3.9 or later")):  # fmt: skip
            with self.subTest(python), self.assertRaises(PageError) as told:
                self.told(python, chunk("a", "1", language="python"))
            self.assertIn(words, str(told.exception))

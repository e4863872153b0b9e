"""What a page uses, as lists that others install from, and the proof in a new environment."""

from __future__ import annotations

import json
import re
import sys
import tomllib
import unittest

from msgspec.structs import replace
from packaging.pylock import Pylock

from tests.support import FolderCase, worn
from wornpage.handover.locks import Release, as_pylock, as_requirements, releases_of, surroundings_in
from wornpage.handover.needs import Needs, Package
from wornpage.handover.rebuilding import build
from wornpage.handover.system import different
from wornpage.tree.problem import UsageError

PAGE = """
    ```python run #load
    from cycler import cycler
    wheel = cycler(colour=["red", "blue"])
    print(len(wheel))
    ```

    There are {= len(wheel)}.
    """
NEEDS = Needs("3.11.7", "python3", "Linux x86_64", (Package("a-b", "1.0", ("load",)), Package("c", '2"x')))


class Locks(unittest.TestCase):
    def test_the_lock_is_what_the_standard_wants(self) -> None:
        releases = {"a-b": Release("https://x.example/a_b-1.0-py3-none-any.whl", "0" * 64), "c": Release("https://x.example/c-2.tar.gz", "1" * 64)}  # fmt: skip
        needs = Needs("3.11.7", "python3", "Linux", (Package("a-b", "1.0"), Package("c", "2")))
        Pylock.from_dict(tomllib.loads(as_pylock(needs, releases))).validate()
        self.assertIn("a-b==1.0 --hash=sha256:" + "0" * 64, as_requirements(needs, releases))
        bare = tomllib.loads(as_pylock(NEEDS, {}))
        self.assertEqual([one["version"] for one in bare["packages"]], ["1.0", '2"x'])
        whole = as_pylock(
            replace(
                needs,
                python="3.11.7",
                system="Linux x86_64",
                libraries={"glibc": "2.36", 'a"b': "1"},
                r=(Package("R", "4.2"),),
            ),
            releases,
        )
        Pylock.from_dict(tomllib.loads(whole)).validate()
        before = surroundings_in(whole)
        self.assertEqual(
            before, {"Python": "3.11.7", "system": "Linux x86_64", "glibc": "2.36", 'a"b': "1", "R": "4.2"}
        )
        told = different(before, {**before, "glibc": "2.41", "libz": "1"} | {"R": "4.2"})
        self.assertEqual(told, ["glibc 2.41, where it was 2.36", "libz 1, where it was absent"])
        self.assertEqual(surroundings_in("a = 1"), {})
        self.assertNotIn("--hash", as_requirements(NEEDS, {"a-b": releases["a-b"]}), "all of them or none")

    def test_an_index_that_does_not_answer_is_told(self) -> None:
        found, why = releases_of([Package("no-such-package-of-marlow-street", "9.9")], sys.executable)
        self.assertEqual((found, bool(why)), ({}, True))
        self.assertTrue(releases_of([Package("a", "1")], "/no/such/python")[1])


class Environments(FolderCase):
    def test_a_page_is_rebuilt_from_what_it_uses(self) -> None:
        self.write("page.md", PAGE)
        worn("press", "page.md", folder=self.folder)
        told = json.loads(worn("environment", "page.md", "--json", folder=self.folder).stdout)
        self.assertEqual([(one["name"], one["used_by"]) for one in told["packages"]], [("cycler", ["load"])])
        for name in ("pylock.toml", "requirements.txt"):
            done = worn("environment", "page.md", "--write", name, folder=self.folder)
            self.assertEqual((done.returncode, done.stdout), (0, f"{name}\n"), done.stderr)
        lock = (self.folder / "pylock.toml").read_text()
        Pylock.from_dict(tomllib.loads(lock)).validate()
        if sys.platform == "linux":
            self.assertRegex(surroundings_in(lock)["glibc"], r"^2\.\d+")
        self.write("pylock.toml", re.sub(r'"glibc" = "[^"]*"', '"glibc" = "1.9"', lock))
        self.assertIn("cycler==", (self.folder / "requirements.txt").read_text())
        self.assertEqual(worn("environment", "page.md", "--write", "page.md", folder=self.folder).returncode, 2)
        done = worn("reproduce", "page.md", "--rebuild", folder=self.folder)
        self.assertEqual(
            (done.returncode, "everything is the same" in done.stderr, "where it was 1.9" in done.stderr),
            (0, True, sys.platform == "linux"),
            done.stdout + done.stderr,
        )
        self.write("page.md", PAGE.replace("print(len(wheel))", "import os, sys; print(sys.prefix)"))
        worn("press", "page.md", folder=self.folder)
        done = worn("reproduce", "page.md", "--rebuild", folder=self.folder)
        self.assertEqual((done.returncode, "chunk `load`" in done.stdout), (1, True), "it runs elsewhere")

    def test_what_cannot_be_made_is_told(self) -> None:
        for program, what in (("/no/such/python", "cannot be made"), (sys.executable, "cannot be installed")):
            needs = Needs("3.11", program, "Linux", (Package("no-such-package-of-marlow-street", "9.9"),))
            with self.subTest(program), self.assertRaisesRegex(UsageError, what):
                build(needs, {}, self.folder)

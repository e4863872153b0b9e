"""Outputs put into folders and onto branches: whole or not at all, and what others have put there stays."""

from __future__ import annotations

import subprocess
from pathlib import Path
from unittest.mock import patch

from hypothesis import given
from hypothesis import strategies as st

from tests.support import FolderCase, worn
from wornpage.deliver.branch import Branch
from wornpage.deliver.folder import Folder
from wornpage.deliver.places import LIST
from wornpage.tree.problem import UsageError

YAML = """
    deliver:
      site: {pages: ["*.md"], outputs: [html, tex], folder: ../public}
      web: {pages: [one.md], branch: published}
    """
NAMES = st.sampled_from(["a.html", "b.html", "sub/c.html", "sub/d.png"])
FILES = st.dictionaries(NAMES, st.binary(max_size=4), max_size=4)


class Delivering(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.project = self.folder / "project"
        self.write("project/worn.yaml", YAML)
        self.write(
            "project/one.md",
            "Of {= 1 + 1}.\n\n```python run #p show=output\nimport matplotlib.pyplot as plt\nplt.plot([1, 2])\n```\n",
        )
        self.write("project/two.md", "Two.\n")

    def deliver(self, *arguments: str, code: int = 0) -> tuple[list[str], str]:
        done = worn("deliver", *arguments, folder=self.project)
        self.assertEqual((done.returncode, "Traceback" in done.stderr), (code, False), done.stderr)
        return done.stdout.splitlines(), done.stderr

    def test_a_folder_has_what_was_delivered_and_keeps_what_others_put_there(self) -> None:
        public = self.folder / "public"
        self.write("public/own.txt", "mine")
        self.assertEqual(
            self.deliver("site", "--dry")[0],
            ["+ one-files/p.pdf", "+ one.html", "+ one.tex", "+ two.html", "+ two.tex"],
        )
        self.assertEqual([path.name for path in public.iterdir()], ["own.txt"])
        self.deliver("site")
        self.assertEqual((public / "one.html").read_bytes(), (self.project / "one.html").read_bytes())
        self.assertIn("nothing to do", self.deliver("site")[1])
        (self.project / "two.md").unlink()
        self.write("project/one.md", "Of {= 1 + 2}.\n")
        self.assertEqual(
            self.deliver("site")[0], ["~ one.html", "~ one.tex", "- one-files/p.pdf", "- two.html", "- two.tex"]
        )
        self.assertEqual(
            sorted(path.name for path in public.iterdir() if path.is_file()), [LIST, "one.html", "one.tex", "own.txt"]
        )
        self.write("project/one.md", "Of {= nothing}.\n")
        before = (public / "one.html").read_bytes()
        self.deliver("site", code=1)
        self.assertEqual((public / "one.html").read_bytes(), before)

    def test_a_branch_gets_one_commit_more_and_nothing_else_is_touched(self) -> None:
        remote = self.folder / "remote.git"

        def git(*arguments: str, place: Path = self.project) -> str:
            return subprocess.run(["git", *arguments], cwd=place, capture_output=True, text=True, check=True).stdout

        git("init", "-q", "--bare", str(remote), place=self.folder)
        for command in (
            ["init", "-q"],
            ["config", "user.name", "Rei"],
            ["config", "user.email", "rei@marlow.example"],
            ["add", "one.md"],
            ["commit", "-qm", "one"],
            ["remote", "add", "origin", "../remote.git"],
        ):
            git(*command)
        status, refs = git("status", "--porcelain", "--ignored"), git("for-each-ref")
        self.deliver("web")
        self.assertEqual(git("log", "--format=%an %s", "published", place=remote), "Rei Deliver one.md\n")
        self.assertEqual(
            git("show", "published:one.html", place=remote).encode(), (self.project / "one.html").read_bytes()
        )
        self.assertEqual(git("for-each-ref"), refs)
        now = git("status", "--porcelain", "--ignored")
        self.assertEqual(
            {line[3:] for line in now.splitlines()} - {line[3:] for line in status.splitlines()}, {"one.html", ".worn/"}
        )
        self.assertIn("nothing to do", self.deliver("web")[1])
        clone = self.folder / "clone"
        git("clone", "-q", "-b", "published", str(remote), str(clone), place=self.folder)
        (clone / "own.txt").write_text("marlow.example")
        for command in (
            ["add", "."],
            ["-c", "user.name=a", "-c", "user.email=a@b", "commit", "-qm", "by hand"],
            ["push", "-q"],
        ):
            git(*command, place=clone)
        self.write("project/one.md", "Of {= 1 + 3}.\n")
        self.assertEqual(self.deliver("web")[0], ["~ one.html"])
        self.assertEqual(
            git("log", "--format=%s", "published", place=remote).split("\n")[:3],
            ["Deliver one.md", "by hand", "Deliver one.md"],
        )
        self.assertEqual(git("show", "published:own.txt", place=remote), "marlow.example")
        late = Branch(self.project, "origin", "published", "late")
        late.change({"one.html": b"x"})
        self.write("project/one.md", "Of {= 1 + 4}.\n")
        self.deliver("web")
        with self.assertRaisesRegex(UsageError, "branch 'published' of 'origin'"):
            late.put({"one.html": b"x"})

    def test_what_cannot_be_delivered_is_told(self) -> None:
        for text, told in (
            ("deliver: {site: {pages: [none.md], folder: p}}", "no page 'none.md'"), ("deliver: {site: {pages: [one.md]}}", "one of them alone"),
            ("deliver: {site: {pages: [one.md], branch: b}}", "branch 'b' of 'origin'"), ("deliver: {site: {pages: [one.md], outputs: [htm], folder: p}}", "htm"), ("language: en", "nothing under"),
            ("deliver: {site: {pagse: [one.md]}}", "pagse"), ("deliver: {site: {pages: [one.md], folder: one.md}}", "cannot be"),
        ):  # fmt: skip
            self.write("project/worn.yaml", text + "\n")
            done = worn("deliver", "site", folder=self.project)
            self.assertIn(done.returncode, {1, 2}, text)
            self.assertIn(told, done.stderr)
            self.assertNotIn("Traceback", done.stderr)
        (self.project / "worn.yaml").unlink()
        self.assertIn("there is no worn.yaml", worn("deliver", folder=self.project).stderr)

    def test_folders_in_the_place_of_files_and_pages_of_others_change_nothing(self) -> None:
        public = self.folder / "public"
        (public / "two.html").mkdir(parents=True)
        self.assertIn("is a folder", self.deliver("site", code=2)[1])
        self.assertEqual([path.name for path in public.rglob("*")], ["two.html"])
        self.write("outside.md", "Of {= 1}.\n")
        self.write("project/worn.yaml", "deliver: {site: {pages: [../outside.md], folder: ../public}}\n")
        self.assertIn("lies outside of", self.deliver("site", code=2)[1])

    def test_where_one_file_cannot_be_put_in_place_all_are_as_they_were(self) -> None:
        folder = Folder(self.folder / "out")
        folder.put({"a.html": b"1", "b.html": b"1", "y.html": b"1", "z.html": b"1"})
        replace, unlink = Path.replace, Path.unlink

        def stuck(part: Path, target: Path) -> Path:
            if target.name == "b.html":
                raise OSError(5, "no")
            return replace(part, target)

        def kept(path: Path, missing_ok: bool = False) -> None:
            if path.name == "z.html":
                raise OSError(1, "no")
            unlink(path, missing_ok=missing_ok)

        def held() -> dict[str, bytes]:
            return {path.name: path.read_bytes() for path in (self.folder / "out").iterdir()}

        was = held()
        for name, act in (("replace", stuck), ("unlink", kept)):
            with patch.object(Path, name, act), self.assertRaises(UsageError):
                folder.put({"a.html": b"2", "b.html": b"2", "0.html": b"2"})
            self.assertEqual(held(), was, name)

    def test_keys_in_what_readers_get_are_told(self) -> None:
        self.write("project/one.md", '```python run #a show=all\napi_key = "a1b2c3d4e5f6g7h8"\n```\n')
        self.write(
            "project/worn.yaml", "deliver: {site: {pages: [one.md], outputs: [html, docx], folder: ../public}}\n"
        )
        told = self.deliver("site", "--dry")[1]
        self.assertEqual(told.count("looks like a key"), 2, told)

    def test_a_volume_goes_as_it_is_bound(self) -> None:
        self.write("project/book/volume.yaml", "title: Rooms\npages: [rooms.md, halls.md]\n")
        self.write("project/book/rooms.md", "# Rooms\n\nOf {= 1 + 1}, see {see far}.\n")
        self.write("project/book/halls.md", "# Halls {#far}\n\nFar.\n")
        self.write("project/worn.yaml", "deliver: {site: {volumes: [book], pages: [two.md], folder: ../public}}\n")
        told = self.deliver("site")[0]
        self.assertTrue({"+ index.html", "+ rooms.html", "+ halls.html", "+ two.html"} <= set(told), told)
        bound = self.project / "book" / "bound"
        for path in (path for path in bound.rglob("*") if path.is_file()):
            self.assertEqual((self.folder / "public" / path.relative_to(bound)).read_bytes(), path.read_bytes())
        self.assertIn("nothing to do", self.deliver("site")[1])
        self.write("project/book/volume.yaml", "title: Rooms\npages: [rooms.md]\n")
        self.write("project/book/rooms.md", "# Rooms\n\nOf {= 1 + 2}.\n")
        self.assertIn("- halls.html", self.deliver("site")[0])
        self.write("project/book/rooms.md", "# Rooms\n\nOf {= nothing}.\n")
        self.deliver("site", code=1)
        self.assertIn(b"3", (self.folder / "public" / "rooms.html").read_bytes())
        for text, words in (("volumes: [bok]", "no volume 'bok'"), ("volumes: [..]", "lies outside"), ("volumes: [book, book2]", "index.html")):  # fmt: skip
            self.write("project/book/rooms.md", "# Rooms\n")
            self.write("project/book2/volume.yaml", "title: Halls\npages: [halls.md]\n")
            self.write("project/book2/halls.md", "# Halls\n")
            self.write("project/worn.yaml", f"deliver: {{site: {{{text}, folder: ../public}}}}\n")
            self.assertIn(words, self.deliver("site", code=2)[1])

    @given(FILES, FILES)
    def test_after_a_delivery_there_is_what_was_delivered(
        self, first: dict[str, bytes], second: dict[str, bytes]
    ) -> None:
        import tempfile

        with tempfile.TemporaryDirectory() as place:
            folder = Folder(Path(place))
            (Path(place) / "own").write_bytes(b"own")
            folder.put(first)
            folder.put(second)
            there = {
                str(path.relative_to(place)): path.read_bytes() for path in Path(place).rglob("*") if path.is_file()
            }
            there.pop(LIST)
            self.assertEqual(there, {**second, "own": b"own"})
            self.assertTrue(folder.change(second).is_empty)
            with self.assertRaises(UsageError):
                folder.put({"../x": b""})

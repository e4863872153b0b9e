"""A page in one file: what goes along and what does not, the same bytes again, and the proof elsewhere."""

from __future__ import annotations

import hashlib
import json
import os
import random
import zipfile
from pathlib import Path

from tests.support import FolderCase, worn
from wornpage.handover.packing import unpack
from wornpage.tree.problem import UsageError

PAGE = """
    ---
    title: The books
    date: 2026-03-02
    language: en
    abstract: "All {= len(lines)} of them."
    keywords: [books, rooms]
    authors: [{name: Imke Sandoval, affiliation: Conservation Laboratory, email: imke@marlow.example}]
    bibliography: works.bib
    press: {html: {origins: yes}}
    ---

    ```python run #load
    from pathlib import Path
    from near import least
    lines = Path("data/books.csv").read_text().split()
    large, key = len(Path("data/large.csv").read_text()), Path("data/server.key").exists() and Path("data/server.key").read_text()
    outside = Path("../outside.csv").read_text()
    ```

    {insert part.md}

    There are {= len(lines)} of {= least}.
    """


class Packs(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("outside.csv", "x\n")
        self.write("project/worn.yaml", "language: en\n")
        for name, text in (("near.py", "least = 5\n"), ("part.md", "A part.\n"), ("works.bib", "@book{a, title={T}, year=2020, author={B}}\n"), ("data/books.csv", "a\nb\n"), ("data/large.csv", "x" * 3_000_000), ("data/server.key", "k\n")):  # fmt: skip
            self.write(f"project/{name}", text)
        self.write("project/page.md", PAGE)

    def pack(self, *arguments: str) -> tuple[dict[str, bytes], str]:
        done = worn("pack", "page.md", *arguments, folder=self.folder / "project")
        self.assertEqual((done.returncode, done.stdout), (0, "page.zip\n"), done.stderr)
        with zipfile.ZipFile(self.folder / "project" / "page.zip") as archive:
            return {name: archive.read(name) for name in archive.namelist()}, done.stderr

    def test_what_goes_along_and_what_does_not(self) -> None:
        held, said = self.pack("--at-most", "2 MB")
        wanted = {"page.md", "part.md", "worn.yaml", "works.bib", "near.py", "data/books.csv", "page.html", "records/page.md.json", "pylock.toml", "ro-crate-metadata.json"}  # fmt: skip
        self.assertEqual(set(held), wanted)
        for piece in ("data/large.csv, since it has 3.0 MB", "data/server.key, since its name says that it is secret", "../outside.csv, since it lies outside of the project"):  # fmt: skip
            self.assertIn(piece, said)
        first = (self.folder / "project" / "page.zip").read_bytes()
        os.utime(self.folder / "project" / "near.py", (1, 1))
        self.pack("--at-most", "2 MB")
        self.assertEqual(first, (self.folder / "project" / "page.zip").read_bytes())
        held, _ = self.pack("--along", "data/server.key")
        self.assertEqual({"data/server.key", "data/large.csv"}, set(held) - wanted)
        for bad in (["--along", "data/servr.key"], ["--at-most", "much"], ["--out", "page.md"]):
            done = worn("pack", "page.md", *bad, folder=self.folder / "project")
            self.assertEqual((done.returncode, "Traceback" in done.stderr), (2, False), done.stderr)

    def test_what_it_says_of_itself(self) -> None:
        held, _ = self.pack("--licence", "https://creativecommons.org/licenses/by/4.0/")
        told = json.loads(held["ro-crate-metadata.json"])
        self.assertEqual(told["@context"], "https://w3id.org/ro/crate/1.1/context")
        graph = {one["@id"]: one for one in told["@graph"]}
        self.assertEqual(len(graph), len(told["@graph"]), "every thing is told once")
        root = graph["./"]
        self.assertEqual(graph["ro-crate-metadata.json"]["about"], {"@id": "./"})
        self.assertEqual((root["name"], root["description"], root["datePublished"]), ("The books", "All 2 of them.", "2026-03-02"))  # fmt: skip
        self.assertEqual(graph["#person-imke-sandoval"]["affiliation"], [{"@id": "#place-conservation-laboratory"}])
        for one in root["hasPart"]:
            entity, data = graph[one["@id"]], held[one["@id"]]
            self.assertEqual(
                (entity["contentSize"], entity["sha256"]), (str(len(data)), hashlib.sha256(data).hexdigest())
            )
        named = {value["@id"] for one in told["@graph"] for held_by in one.values() for value in (held_by if isinstance(held_by, list) else [held_by]) if isinstance(value, dict)}  # fmt: skip
        self.assertEqual({one for one in named if one not in graph and not one.startswith("https://w3id.org")}, set())
        action = graph["#pressing-page-md"]
        self.assertIn({"@id": "data/books.csv"}, action["object"])
        self.assertIn({"@id": "page.html"}, action["result"])

    def test_it_is_proved_elsewhere_and_a_lie_is_found(self) -> None:
        self.write("project/page.md", PAGE.replace('    outside = Path("../outside.csv").read_text()\n', ""))
        self.pack("--along", "data/server.key")
        elsewhere = self.folder / "elsewhere"
        elsewhere.mkdir()
        (self.folder / "project" / "page.zip").rename(elsewhere / "got.zip")
        done = worn("reproduce", "got.zip", folder=elsewhere)
        self.assertEqual(
            (done.returncode, "everything is the same" in done.stderr), (0, True), done.stdout + done.stderr
        )
        self.assertEqual([path.name for path in elsewhere.iterdir()], ["got.zip"])
        with zipfile.ZipFile(elsewhere / "got.zip") as old, zipfile.ZipFile(elsewhere / "lie.zip", "w") as new:
            for name in old.namelist():
                new.writestr(name, old.read(name).replace(b"a\nb\n", b"a\nb\nc\n") if name == "data/books.csv" else old.read(name))  # fmt: skip
        done = worn("reproduce", "lie.zip", folder=elsewhere)
        self.assertEqual((done.returncode, "data data/books.csv" in done.stdout), (1, True), done.stdout)

    def test_strange_packs_are_refused(self) -> None:
        def made(name: str, *files: tuple[str, str]) -> Path:
            with zipfile.ZipFile(self.folder / name, "w") as archive:
                for inner, text in files:
                    archive.writestr(inner, text)
            return self.folder / name

        crate = json.dumps({"@graph": [{"@id": "./", "mainEntity": [{"@id": "../../x.md"}]}]})
        for pack in (
            made("a.zip", ("../x", "")), made("b.zip", ("/x", "")), made("c.zip", ("x", "")), made("d.zip", ("ro-crate-metadata.json", "[]")),
            made("e.zip", ("ro-crate-metadata.json", crate)), self.write("f.zip", b"no zip"), self.folder / "none.zip",
        ):  # fmt: skip
            with self.subTest(pack.name), self.assertRaises(UsageError):
                unpack(pack, self.folder / f"to-{pack.name}")
        self.assertFalse((self.folder / "x").exists())

    def test_damage_is_told_wherever_it_is(self) -> None:
        self.write("small/page.md", "Of {= 1 + 1}.\n")
        worn("press", "page.md", folder=self.folder / "small")
        worn("pack", "page.md", folder=self.folder / "small")
        whole = (self.folder / "small" / "page.zip").read_bytes()
        luck, told = random.Random(7), 0
        for number in range(150):
            broken = bytearray(whole[: luck.randrange(len(whole))] if number % 5 == 0 else whole)
            for _ in range(luck.choice([1, 1, 4]) if broken else 0):
                broken[luck.randrange(len(broken))] = luck.randrange(256)
            try:
                unpack(self.write("broken.zip", bytes(broken)), self.folder / f"to-{number}")
            except UsageError:
                told += 1
        self.assertGreater(told, 100)

"""An author's own collection: found in, and taken over from."""

from __future__ import annotations

import os

from tests.support import FolderCase, worn
from wornpage.sources.collecting import collection, key_when_taken, take_over
from wornpage.sources.entries import read_library
from wornpage.tree.span import Span

MINE = """
[{"id": "http://x/1", "type": "book", "title": "On Shelves", "author": [{"family": "Lund", "given": "Ada"}], "issued": {"date-parts": [[2019]]}, "DOI": "10.5555/a"},
 {"id": "okafor2020", "type": "book", "title": "Another", "author": [{"family": "Okafor"}], "issued": {"date-parts": [[2020]]}},
 {"id": "free", "type": "book", "title": "Free & easy", "author": [{"family": "Sandoval"}], "issued": {"date-parts": [[2021]]}}]
"""
OWN = "@book{okafor2020, title={Damp}, author={Okafor, A.}, year=2020, publisher={M}}\n@book{mine, title={On shelves}, doi={10.5555/A}, year=2019, author={Lund, A.}, publisher={M}}\n"


class Collecting(FolderCase):
    def test_a_work_has_one_key_and_is_written_once(self) -> None:
        self.write("mine.json", MINE)
        own = self.write("own.bib", OWN)
        held = collection(["mine.json", "nothing.bib"], self.folder)
        library = read_library([("own.bib", Span("p", 1))], self.folder)
        keys = [key_when_taken(entry, library) for entry in held.entries.values()]
        self.assertEqual(keys, [("mine", True), ("okafor2020a", False), ("free", False)])
        for entry in held.entries.values():
            take_over(entry, own, read_library([("own.bib", Span("p", 1))], self.folder))
            take_over(entry, own, read_library([("own.bib", Span("p", 1))], self.folder))
        after = read_library([("own.bib", Span("p", 1))], self.folder)
        self.assertEqual(list(after.entries), ["okafor2020", "mine", "okafor2020a", "free"])
        self.assertIn("title = {Free \\& easy}", own.read_text())
        other = self.write("other.bib", "")
        for entry in after.entries.values():  # from one file of this kind into another
            take_over(entry, other, read_library([("other.bib", Span("p", 1))], self.folder))
        self.assertIn("title = {Free \\& easy}", other.read_text())

    def test_it_is_read_anew_when_it_changes(self) -> None:
        file = self.write("mine.bib", OWN)
        self.assertEqual(len(collection(["mine.bib"], self.folder).entries), 2)
        file.write_text(OWN + OWN.replace("okafor2020", "b").replace("mine", "c"))
        os.utime(file, (2e9, 2e9))
        self.assertEqual(len(collection(["mine.bib"], self.folder).entries), 4)

    def test_the_command_finds_and_takes_over(self) -> None:
        self.write("mine.json", MINE)
        self.write("own.bib", OWN)
        self.write("page.md", "---\nbibliography: own.bib\nlibrary: mine.json\n---\nWords.\n")
        found = worn("sources", "find", "page.md", "sandoval", folder=self.folder)
        self.assertIn("in your library", found.stdout)
        added = worn("sources", "add", "page.md", "free", folder=self.folder)
        self.assertIn("{cite free}", added.stderr)
        self.assertNotIn("in your library", worn("sources", "find", "page.md", "sandoval", folder=self.folder).stdout)

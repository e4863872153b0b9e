"""Rooms for outputs: one that is brought by somebody else is pressed, set, remembered and told of as ours are."""

import json
import os
import unittest
from unittest import mock

from tests.support import FolderCase, worn

PLAIN = '''
from typing import Annotated

from msgspec import Struct

from wornpage.output.kind import Input, Written
from wornpage.tree.walk import walk
from wornpage.tree import nodes as n


class PlainPress(Struct, frozen=True):
    """Settings of plain text."""

    shout: Annotated[bool, "In capitals."] = False
    footer: Annotated[str, "A file whose text stands at the end."] = ""


class Plain:
    name, suffix, options, looks = "plain", ".txt", PlainPress, ()

    def inputs(self, options):
        return (Input(("press", "plain", "footer"), options.footer),) if options.footer else ()

    def write(self, page, job):
        options = job.settings.press.plain
        words = "".join(node.text for node in walk(page.blocks) if isinstance(node, n.Text))
        if options.footer:
            words += (job.folder / options.footer).read_text()
        words = words.upper() if options.shout else words
        return Written(words.encode(), beside={"words/count.txt": str(len(words)).encode()})


OUTPUT = Plain()
'''


class Brought(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("site/plainout.py", PLAIN)
        self.write("site/plainout-1.0.dist-info/entry_points.txt", "[wornpage.outputs]\nplain = plainout:OUTPUT\n")
        self.page = self.write("work/p.md", "---\npress: {plain: {shout: yes, footer: end.txt}}\n---\n\nSome words.\n")
        self.write("work/end.txt", "The end.")
        patch = mock.patch.dict(os.environ, {"PYTHONPATH": str(self.folder / "site")})
        patch.start()
        self.addCleanup(patch.stop)

    def test_it_is_pressed_with_its_settings_and_further_files(self) -> None:
        done = worn("press", "p.md", "--as", "plain,html", folder=self.page.parent)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual((self.page.parent / "p.txt").read_text(), "SOME WORDS.THE END.")
        self.assertEqual((self.page.parent / "p-files/words/count.txt").read_text(), "19")
        self.assertTrue((self.page.parent / "p.html").exists())

    def test_it_is_remembered_with_its_inputs_and_all_its_files(self) -> None:
        def says() -> str:
            return worn("press", "p.md", "--as", "plain", folder=self.page.parent).stderr

        says()
        self.assertIn("nothing to do", says())
        self.write("work/end.txt", "Fin.")
        self.assertNotIn("nothing to do", says())
        self.assertIn("nothing to do", says())
        (self.page.parent / "p-files/words/count.txt").unlink()
        self.assertNotIn("nothing to do", says())
        self.assertTrue((self.page.parent / "p-files/words/count.txt").exists())

    def test_a_broken_package_is_named_and_not_called_ours(self) -> None:
        self.write("site/plainout.py", "import nothing_of_the_kind\n")
        done = worn("press", "p.md", folder=self.page.parent)
        self.assertEqual(done.returncode, 2, done.stderr)
        self.assertIn("plainout:OUTPUT", done.stderr)
        self.assertNotIn("fault of Worn Page", done.stderr)

    def test_its_settings_are_checked_and_told_of(self) -> None:
        self.page.write_text("---\npress: {plain: {shuot: yes, footer: gone.txt}}\n---\n\nSome words.\n")
        done = worn("press", "p.md", "--as", "plain", folder=self.page.parent)
        self.assertEqual(done.returncode, 1)
        self.assertIn("p.md:2:17", done.stderr)
        self.assertIn("'shout'", done.stderr)
        self.page.write_text("---\npress: {plain: {footer: gone.txt}}\n---\n\nSome words.\n")
        self.assertIn("'gone.txt' cannot be read", worn("press", "p.md", folder=self.page.parent).stderr)
        schema = json.loads(worn("schema", "page", folder=self.page.parent).stdout)
        self.assertIn("shout", json.dumps(schema))
        self.assertIn("plain", worn("press", "p.md", "--as", "plian", folder=self.page.parent).stderr)


if __name__ == "__main__":
    unittest.main()


class MadeFrom(FolderCase):
    """Whatever an output is made from beside the page is looked at before there is nothing to do."""

    def setUp(self) -> None:
        super().setUp()
        press = "{html: {stylesheets: [own.css]}, pdf: {fonts: [fonts]}}"
        self.write("p.md", f"---\npress: {press}\n---\n\nThe letter \U0010abcd.\n")
        self.write(
            "own.css", '/* @import "a.css"; url(gone.svg) */\n@import "b.css";\np { background: url("my%20dot.svg") }\n'
        )
        self.write("my dot.svg", "<svg/>")
        self.write("fonts/one.ttf", "no font")

    def is_done(self, *kinds: str) -> bool:
        self.said = worn("press", "p.md", "--as", ",".join(kinds), folder=self.folder).stderr
        return "nothing to do" in self.said

    def test_files_that_style_sheets_name(self) -> None:
        self.assertFalse(self.is_done("html"))
        self.assertIn("own.css:2:1: warning: a style sheet inside a page imports no other", self.said)
        self.assertEqual(self.said.count("own.css:"), 1, "remarks name no files")
        self.assertIn("data:image/svg+xml;base64,PHN2Zy8+", (self.folder / "p.html").read_text("utf-8"))
        self.assertTrue(self.is_done("html"))
        self.write("my dot.svg", "<svg id='new'/>")
        self.assertFalse(self.is_done("html"))
        (self.folder / "my dot.svg").unlink()
        self.assertFalse(self.is_done("html"))
        self.assertIn("cannot be read", self.said)
        self.write("my dot.svg", "<svg/>")
        self.assertFalse(self.is_done("html"), "what was missing has come")

    def test_folders_of_fonts(self) -> None:
        self.assertFalse(self.is_done("pdf"))
        self.assertIn("no font has the letter", self.said)
        self.assertTrue(self.is_done("pdf"))
        self.write("fonts/inner/two.ttf", "no font")
        self.assertFalse(self.is_done("pdf"))
        self.write("fonts/inner/two.ttf", "nor this")
        self.assertFalse(self.is_done("pdf"))

    def test_outputs_of_two_pressings_stand_beside_each_other(self) -> None:
        self.is_done("html")
        self.is_done("pdf")
        self.assertTrue(self.is_done("html", "pdf"))
        self.write("my dot.svg", "<svg id='new'/>")
        self.is_done("pdf")
        self.assertFalse(self.is_done("html"), "what was made before no longer holds")

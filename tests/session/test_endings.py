"""What code leaves for the end of its session is done then, as at the end of a script, and files count as they are after it."""

import shutil
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest.mock import patch

from wornpage.press import press
from wornpage.press.orders import Pressing

R = """con <- file("open.txt", "w"); writeLines("a", con)
invisible(reg.finalizer(new.env(), function(e) writeLines(as.character(total), "gone.txt"), onexit = TRUE))
.Last <- function() writeLines(as.character(total), "last.txt")"""


class Ends(unittest.TestCase):
    """A page pressed again and again."""

    def setUp(self) -> None:
        place = TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name).resolve()

    def pressed(self, *codes: str, language: str = "python") -> Pressing:
        chunks = (f"```{language} run #{label}\n{code}\n```\n" for label, code in zip("abc", codes, strict=False))
        (self.folder / "page.md").write_text("\n".join(chunks))
        return press(self.folder / "page.md")

    def ran(self, *codes: str, language: str = "python") -> str:
        done = self.pressed(*codes, language=language)
        return "".join(one.label for one in done.chunks if one.outcome != "reused")

    def held(self, name: str) -> str:
        return (self.folder / name).read_text().strip()

    def test_what_is_called_at_the_end_finds_the_page_as_it_ends_whichever_chunk_has_changed(self) -> None:
        keep = "import atexit\ndef keep():\n    open('o.txt', 'w').write(str(total))\natexit.register(keep);"
        self.assertEqual(self.ran(keep, "total = 1", "3"), "abc")
        self.assertEqual(self.held("o.txt"), "1")
        self.assertEqual(self.ran(keep, "total = 2", "3"), "b")
        self.assertEqual(self.held("o.txt"), "2")
        self.assertEqual(self.ran(keep, "total = 2", "3"), "")
        self.assertEqual(self.ran(keep, "total = 1", "3"), "", "as it was first, so that nothing runs")
        self.assertEqual(self.held("o.txt"), "1")
        self.ran(keep, "total = 2", "3")
        (self.folder / "o.txt").unlink()
        self.assertIn("a", self.ran(keep, "total = 2", "3"))
        self.assertEqual(self.held("o.txt"), "2")

    def test_a_file_that_is_not_closed_is_whole_and_code_below_finds_it_as_it_was_then(self) -> None:
        codes = "f = open('o.txt', 'w'); f.write('one');", "len(open('o.txt').read())"
        self.assertEqual(self.ran(*codes, "1"), "abc")
        self.assertEqual(self.held("o.txt"), "one")
        page = (self.folder / "page.html").read_text()
        self.assertEqual(self.ran(*codes, "2"), "c")  # which does not look at it
        self.assertEqual(self.ran(codes[0], codes[1] + "  # it does", "2"), "")
        self.assertEqual(self.ran(codes[0], codes[1].replace("len", "1 + len"), "1"), "b")
        self.assertEqual((self.held("o.txt"), page.count(">0<")), ("one", 1))
        self.assertIn(">1<", (self.folder / "page.html").read_text())

    @unittest.skipUnless(shutil.which("R"), "R is not there")
    def test_r_does_so_too(self) -> None:
        self.ran(R, "total <- 1; writeLines('b', con)", language="r")
        self.assertEqual(*[(self.held("open.txt"), self.held("gone.txt"), self.held("last.txt")), ("a\nb", "1", "1")])
        self.assertIn("b", self.ran(R, "total <- 2; writeLines('b', con)", language="r"))
        self.assertEqual(*[(self.held("open.txt"), self.held("gone.txt"), self.held("last.txt")), ("a\nb", "2", "2")])
        self.assertEqual(self.ran(R, "total <- 2; writeLines('b', con)", language="r"), "")

    def test_what_goes_wrong_then_or_takes_too_long_is_told_at_its_chunk_and_the_page_stands(self) -> None:
        with patch("wornpage.session.piped.ENDING", 0.5):
            wrong = self.pressed("1", "import atexit\natexit.register(lambda: 1 / 0)\nprint(2)")
            endless = self.pressed("import atexit, time\natexit.register(time.sleep, 99);", "3")
        self.assertRegex(str(wrong.warnings[-1]), r":5:\d+: .*`b`.*ZeroDivisionError")
        self.assertRegex(str(endless.warnings[-1]), r":1:\d+: .*`a`.*longer")

    def test_a_session_that_is_thrown_away_leaves_no_folder_behind_and_calls_nothing(self) -> None:
        from wornpage.session.process import ProcessSession
        from wornpage.session.tasks import ChunkTask, Environment

        code = "import atexit, tempfile\nt = tempfile.TemporaryDirectory(dir='.')\nu = tempfile.NamedTemporaryFile(dir='.')\n"
        session = ProcessSession()
        session.open(Environment(self.folder, "page.md"))
        ran = session.run(ChunkTask("a", code + "atexit.register(lambda: open('o.txt', 'w'));", 1, None))
        self.assertTrue(ran.leaves and session.left)
        self.assertEqual(len(list(self.folder.iterdir())), 2)
        session.close()
        self.assertEqual(list(self.folder.iterdir()), [])

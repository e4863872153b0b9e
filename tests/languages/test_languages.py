"""Rooms for languages: one that is brought by somebody else runs beside Python on one page, under the same law."""

import random
import sys
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

from tests.languages.made_up import MadeUp
from tests.support import FolderCase
from wornpage.plan.status import status_of
from wornpage.press import PressingFailed, prepare, press
from wornpage.session import languages
from wornpage.source import read_page
from wornpage.tree.problem import PageError


class Brought(FolderCase):
    """With a language that a package has brought."""

    def setUp(self) -> None:
        super().setUp()
        place = TemporaryDirectory()
        self.addCleanup(place.cleanup)
        package = Path(place.name) / "abacus-1.0.dist-info"
        package.mkdir()
        (package / "entry_points.txt").write_text(
            f"[{languages.ENTRY_POINTS}]\nabacus = tests.languages.abacus:LANGUAGE\n"
        )
        patch = mock.patch("sys.path", [*sys.path, place.name])
        patch.start()
        languages.forget()
        self.addCleanup(languages.forget)
        self.addCleanup(patch.stop)

    def pressed(self, *chunks: str, folder: Path | None = None) -> list[str]:
        """Press a page of these chunks; which ran."""
        page = (folder or self.folder) / "p.md"
        page.write_text("---\ntitle: t\n---\n\n" + "\n\n".join(chunks) + "\n", encoding="utf-8")
        self.html = page.with_suffix(".html")
        return [chunk.label for chunk in press(page).chunks if chunk.outcome != "reused"]


def abacus(label: str, *lines: str) -> str:
    return f"```abacus run #{label} on-error=show\n" + "\n".join(lines) + "\n```"


def python(label: str, *lines: str) -> str:
    return f"```python run #{label} on-error=show\n" + "\n".join(lines) + "\n```"


class Languages(Brought):
    def test_each_language_has_names_of_its_own(self) -> None:
        self.pressed(
            abacus("one", "let n = 3"), python("two", "n = 5"), abacus("three", "show n"), python("four", "print(n)")
        )
        self.assertRegex(self.html.read_text(), r"(?s)>3<.*>5<")

    def test_values_are_reused_and_files_lead_from_one_to_the_other(self) -> None:
        chunks = [abacus("count", "let n = 3 + 4", "save n.txt n"), python("read", "m = int(open('n.txt').read())"),
                  abacus("more", "let k = n + 1"), python("say", "print(m)"), abacus("show", "show k")]  # fmt: skip
        self.assertEqual(len(self.pressed(*chunks)), 5)
        self.assertEqual(self.pressed(*chunks, "More words."), [])
        chunks[4] = abacus("show", "show k", "show n")
        self.assertEqual(self.pressed(*chunks), ["show"])
        chunks[0] = abacus("count", "let n = 4 + 4", "save n.txt n")
        self.assertEqual(self.pressed(*chunks), ["count", "read", "more", "say", "show"])
        chunks[0] = abacus("count", "let n = 4 + 4  ; words", "save n.txt n")
        self.assertEqual(self.pressed(*chunks), [])

    def test_what_only_running_gives_is_run_again_in_its_own_language(self) -> None:
        chunks = [
            abacus("row", "row r = 1 2"),
            python("other", "print(1)"),
            abacus("push", "push r 5"),
            abacus("sum", "let s = total r", "show s"),
        ]
        self.pressed(*chunks)
        chunks[3] = abacus("sum", "let s = total r", "push r s", "show r")
        self.assertEqual(self.pressed(*chunks), ["sum"])
        self.assertIn("[1, 2, 5, 8]", self.html.read_text())

    def test_errors_name_their_line_and_unknown_languages_their_nearest(self) -> None:
        with self.assertRaises(PressingFailed) as told:
            self.pressed("```abacus run #bad\nlet n = 1\nshow nothing\n```")
        self.assertIn("p.md:7", str(told.exception))
        with self.assertRaises(PageError) as told:
            self.pressed("```abacas run #bad\nlet n = 1\n```")
        self.assertIn("Did you mean 'abacus'", str(told.exception))

    def test_status_decides_as_pressing_does(self) -> None:
        chunks = [abacus("a", "let n = dice"), python("b", "x = 1"), abacus("c", "show n")]
        self.pressed(*chunks)
        page = read_page(self.folder / "p.md", "p.md")
        self.assertTrue(all(one.fresh for one in status_of(page, prepare(page)[0]).chunks))

    def test_marks_are_asked_in_the_language_of_the_page_or_in_the_one_they_name(self) -> None:
        chunks = [
            abacus("a", "let n = 3"),
            python("b", "n = 5"),
            "So {= n}, {python= n + 1}, {py= n} and {beads= n}; {width=3}, {n=3}.",
        ]
        self.pressed(*chunks)
        self.assertIn("So 3, 6, 5 and 3; {width=3}, {n=3}.", self.html.read_text())
        self.assertEqual(self.pressed(chunks[1], chunks[0], chunks[2]), [])
        self.assertIn("So 5, 6, 5 and 3", self.html.read_text())
        chunks[0] = abacus("a", "let n = 4")
        self.pressed(*chunks)
        self.assertIn("So 4, 6, 5 and 4", self.html.read_text())

    def test_a_page_may_say_which_language_its_values_are_in(self) -> None:
        page = self.write(
            "v.md",
            "---\ntitle: t\nlanguage-of-values: python\n---\n\n"
            + abacus("a", "let n = 3")
            + "\n\nIt is {= 1 + 1}, {abacus= n}.\n",
        )
        press(page)
        self.assertIn("It is 2, 3.", page.with_suffix(".html").read_text())
        for word, hint in (("abacas", "Did you mean 'abacus'"), ("zzz", "There are: python, r, abacus.")):
            for text in (f"---\nlanguage-of-values: {word}\n---\n\nIt is {{= 1}}.\n", f"It is {{{word}= 1}}.\n"):
                self.write("v.md", text)
                with self.subTest(text), self.assertRaises(PageError) as told:
                    press(page)
                self.assertIn(hint, str(told.exception))

    def test_what_inserts_are_given_is_read_in_the_language_of_values(self) -> None:
        self.write("part.md", "Words.\n")
        for mark, hint in (
            ("{insert part.md x=1+}", "It is Python"),
            ("{insert part.md for x in xs y=1}", "before `for`"),
        ):
            with self.subTest(mark), self.assertRaises(PageError) as told:
                press(self.write("v.md", f"---\ntitle: t\n---\n\n{mark}\n"))
            self.assertIn("v.md:5:1:", str(told.exception))
            self.assertIn(hint, str(told.exception))

    def test_any_word_of_a_language_will_do(self) -> None:
        self.pressed(abacus("a", "let n = 3"), "```beads run #b\nshow n\n```")
        self.assertIn(">3<", self.html.read_text())


LINES = ("let a = {k}", "let b = a + {k}", "row r = {k} a", "push r {k}", "let s = total r", "show a", "show b", "show s", "show r",
         "save f.txt a", "let a = file f.txt", "let c = dice", "show c", "save g.txt b")  # fmt: skip
CODE = ("a = {k}", "b = [a]", "b.append({k})", "print(a, b)", "open('f.txt', 'w').write(str({k}))", "a = int(open('g.txt').read())",
        "import random; print(random.random())", "del a")  # fmt: skip


class Law(MadeUp, Brought):
    """On pages in two languages."""

    SEEDS = 12

    def made(self, chance: random.Random, label: str) -> str:
        kind, lines = chance.choice(((abacus, LINES), (python, CODE)))
        return kind(
            label, *(line.format(k=chance.randint(1, 9)) for line in chance.sample(lines, chance.randint(1, 3)))
        )


if __name__ == "__main__":
    unittest.main()

"""What runs again and what does not, and that `status` says the same: the everyday edits that go wrong."""

import json

from tests.support import FolderCase, worn
from wornpage.plan.status import status_of
from wornpage.press import prepare, press
from wornpage.source import read_page


class Everyday(FolderCase):
    """Each page is pressed once, and then again after an edit."""

    def setUp(self) -> None:
        super().setUp()
        self.page = self.folder / "p.md"

    def foretold(self) -> list[str]:
        """The chunks that `status` calls stale."""
        source = read_page(self.page, "p.md")
        return [chunk.label for chunk in status_of(source, prepare(source)[0]).chunks if not chunk.fresh]

    def pressed(self, text: str, foretold: bool = True) -> tuple[list[str], str]:
        """Which chunks ran, and the page's HTML; `status` must have named the first of them, or none."""
        self.page.write_text(text, encoding="utf-8")
        stale = self.foretold()
        ran = [chunk.label for chunk in press(self.page).chunks if chunk.outcome == "ran"]
        if foretold:
            self.assertEqual(stale[:1], ran[:1])
        return ran, self.page.with_suffix(".html").read_text(encoding="utf-8")

    def chunk(self, label: str, code: str, options: str = "") -> str:
        return f"```python run #{label} {options}\n{code}\n```\n\n"

    def test_what_a_chunk_has_changed_itself_is_nothing_to_do_until_something_else_is(self) -> None:
        code = "with open('log.txt', 'a') as log:\n    print('run', file=log)"
        self.page.write_text(self.chunk("log", code) + self.chunk("other", "print(1)"), encoding="utf-8")
        worn("press", "p.md", folder=self.folder)
        self.assertIn("everything is fresh", worn("status", "p.md", folder=self.folder).stderr)
        self.assertIn("nothing to do", worn("press", "p.md", folder=self.folder).stderr)
        self.page.write_text(self.page.read_text("utf-8") + "Words.\n", encoding="utf-8")
        told = json.loads(worn("status", "p.md", "--json", folder=self.folder).stdout)["chunks"]
        self.assertEqual([chunk["state"] for chunk in told], ["stale", "fresh"])
        self.assertIn("changes log.txt itself", told[0]["why"])

    def test_a_mark_that_looks_at_no_file_has_none_made_again(self) -> None:
        page = (
            "---\ngiven: {n: 1}\n---\n"
            + self.chunk("first", "open('f.txt', 'w').write('one')")
            + "N is {= given.n}.\n\n"
            + self.chunk("second", "open('f.txt', 'w').write('two')")
        )
        self.pressed(page)
        ran, html = self.pressed(page.replace("n: 1", "n: 2"))
        self.assertEqual((ran, "N is 2." in html), ([], True))

    def test_a_mark_that_looks_at_a_file_finds_it_as_it_was_there(self) -> None:
        first, second = (self.chunk(name, f"open('f.txt', 'w').write('{name}')") for name in ("first", "second"))
        for looks, seen in (("open('f.txt').read()", "first"), ("__import__('os').path.getsize('f.txt')", "5"),
                            ("__import__('subprocess').getoutput('cat f.txt')", "first")):  # fmt: skip
            with self.subTest(looks):
                self.pressed(f"{first}It says nothing.\n\n{second}")
                _, html = self.pressed(f"{first}It says {{= {looks}}}.\n\n{second}", foretold=False)  # the mark is new
                self.assertIn(f"It says {seen}.", html)
                self.assertEqual((self.folder / "f.txt").read_text(), "second")

    def test_two_that_write_one_file_change_places(self) -> None:
        first, second = (self.chunk(name, f"open('f.txt', 'w').write('{name}')") for name in ("first", "second"))
        last = self.chunk("last", "print(open('f.txt').read())")
        self.pressed(first + second + last)
        _, html = self.pressed(second + first + last)
        self.assertIn("first", html)
        for words in ("More.", "More words.", "Still more."):
            self.assertEqual(self.pressed(second + first + last + words)[0], [], words)

    def test_comments_layout_and_words_run_nothing(self) -> None:
        code = self.chunk("a", "x = [1,\n  2]") + self.chunk("b", "print(x)")
        self.pressed(code)
        for edit in (code.replace("x = [1,\n  2]", "# a comment\nx = [1, 2]  # and another"), "Words.\n\n" + code,
                     code.replace("print(x)", "print( x )")):  # fmt: skip
            self.assertEqual(self.pressed(edit)[0], [])

    def test_what_made_the_same_ends_the_wave(self) -> None:
        page = self.chunk("a", "x = 1 + 1") + self.chunk("b", "y = x * 2") + self.chunk("c", "print(y)")
        self.pressed(page)
        self.assertEqual(self.pressed(page.replace("1 + 1", "3 - 1"))[0], ["a"])
        self.assertEqual(self.pressed(page.replace("1 + 1", "3 + 1"))[0], ["a", "b", "c"])

    def test_a_chunk_taken_out_or_put_in_runs_no_more_than_it_must(self) -> None:
        a, b, c = (self.chunk(name, f"{name} = '{name}'\nprint({name})") for name in "abc")
        self.pressed(a + b + c)
        self.assertEqual(self.pressed(a + c)[0], [])
        self.assertEqual(self.pressed(c + a)[0], [])
        self.assertEqual(self.pressed(a + b + c)[0], [])

    def test_an_earlier_state_comes_back_without_running(self) -> None:
        one, two = self.chunk("a", "print(1)"), self.chunk("a", "print(2)")
        self.pressed(one)
        self.assertEqual(self.pressed(two)[0], ["a"])
        self.assertEqual(self.pressed(one)[0], [])

    def test_a_failure_that_is_shown_is_kept_and_one_that_is_not_is_tried_again(self) -> None:
        page = self.chunk("a", "open('data/gone.txt')", "on-error=show")
        (self.folder / "data").mkdir()
        self.pressed(page)
        self.assertEqual(self.pressed(page + "Words.")[0], [])
        (self.folder / "data/gone.txt").write_text("here")
        ran, html = self.pressed(page)
        self.assertEqual((ran, "FileNotFoundError" in html), (["a"], False))

    def test_conditions_and_givens(self) -> None:
        page = (
            "---\ngiven: {deep: no, n: 1}\n---\n"
            + self.chunk("a", "print('deep')", 'when="given.deep"')
            + self.chunk("b", "print(given.n)")
        )
        self.pressed(page)
        self.assertEqual(self.pressed(page.replace("deep: no", "deep: yes"))[0], ["a"])
        self.assertEqual(self.pressed(page.replace("n: 1", "n: 2"))[0], ["b"])

    def test_seeds(self) -> None:
        page = (
            "---\nseed: 1\n---\n"
            + self.chunk("a", "import random\nprint(random.random())")
            + self.chunk("b", "print('none')")
        )
        _, first = self.pressed(page)
        ran, second = self.pressed(page.replace("seed: 1", "seed: 2"))
        self.assertEqual(ran, ["a"])
        self.assertNotEqual(first, second)

    def test_always_is_always(self) -> None:
        page = self.chunk("a", "x = 1", "rerun=always") + self.chunk("b", "print(x)")
        self.pressed(page)
        self.assertEqual(self.pressed(page + "Words.")[0], ["a"])

    def test_modules_beside_the_page(self) -> None:
        (self.folder / "helper.py").write_text("def f():\n    return 1\n")
        page = self.chunk("a", "from helper import f\nprint(f())") + self.chunk("b", "print('none')")
        self.pressed(page)
        (self.folder / "helper.py").write_text('def f():\n    """Words."""\n    return 1  # one\n')
        self.assertEqual(self.pressed(page)[0], [])
        (self.folder / "helper.py").write_text("def f():\n    return 2\n")
        ran, html = self.pressed(page)
        self.assertIn("2", html)
        self.assertEqual(ran[0], "a")

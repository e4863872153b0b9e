"""The report of a comparison in a real browser: nothing from elsewhere, filters, light and dark; and the words of differences."""

from __future__ import annotations

import re
import unittest

from tests.browser import accessibility_faults, chromium
from tests.support import FolderCase
from wornpage.compare.aligning import aligned, likeness
from wornpage.compare.changes import NumberChange, is_over, relative
from wornpage.compare.comparing import compared
from wornpage.compare.report import report
from wornpage.compare.saying import counts, difference, same_in_words, share
from wornpage.showing.parts import Figure, Part, Showing, ShownPicture, ShownValue, Table, Words

SVG = b'<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10"><rect width="%d" height="5"/><script>alert(1)</script></svg>'
PICTURES = {"1": SVG % 5, "2": SVG % 9}


def words(said: str, number: float) -> Words:
    return Words(
        "paragraph",
        f"It is {said} <b>.",
        "p.md:1:1",
        (ShownValue(said, "{= x as percent}", "p.md:1:7", number),),
        "",
        "It is \ufffc <b>.",
    )


def showing(said: str, number: float, cell: str, picture: str, more: tuple[Part, ...] = ()) -> Showing:
    table = Table(
        "t",
        "Table 1",
        "Told & <i>",
        "p.md:3:1",
        "c",
        ("", "n"),
        (("a", cell), ("b", "2")),
        ((None, float(cell)), (None, 2)),
        1,
    )
    figure = Figure("f", "Figure 1", "Drawn", "p.md:5:1", "c", (ShownPicture("svg", picture, 3, 2),))
    return Showing(
        "Rooms <script>", (words(said, number), table, figure, *more), page="p.md", when=1e9, data={"d.csv": picture}
    )


BEFORE = showing("14.6%", 0.146, "10", "1", (Words("paragraph", "An old text goes."),))
AFTER = showing("14.9%", 0.149, "20", "2", (Words("paragraph", "A young text goes."), Words("heading", "New")))


class Reports(FolderCase):
    def test_it_filters_and_reaches_nothing(self) -> None:
        found = compared(BEFORE, AFTER, lambda path, was, now: ("`ph` changed",))
        made = report(found, PICTURES.get, PICTURES.get)
        page = self.folder / "report.html"
        page.write_bytes(made)
        self.assertNotIn(b"<script>alert", made)
        self.assertNotIn(b"Rooms <script>", made)
        self.assertFalse(re.findall(rb'(?:src|href)="(?!data:)', made))
        browser = chromium()
        self.addCleanup(browser.quit)
        browser.get(page.as_uri())

        def seen() -> list[str]:
            shown: list[str] = browser.execute_script("return [...document.querySelectorAll('.change')].filter((one) => !one.hidden).map((one) => one.dataset.kind)")  # fmt: skip
            return shown

        def pick(what: str, value: str) -> None:
            browser.execute_script(
                "const one = document.getElementById(arguments[0]); one.value = arguments[1]; one.onchange()",
                what,
                value,
            )

        self.assertEqual(seen(), ["number", "cell", "figure", "words", "words"])
        pick("larger", "0.05")
        self.assertEqual(seen(), ["cell", "figure"])
        pick("larger", "0.01")
        self.assertEqual(seen(), ["number", "cell", "figure"])
        pick("kind", "number")
        self.assertEqual(seen(), ["number"])
        pick("larger", "0")
        pick("kind", "words")
        self.assertEqual(seen(), ["words", "words"])
        self.assertEqual(browser.execute_script("return document.querySelectorAll('img').length"), 4)
        self.assertEqual(browser.get_log("browser"), [])
        for dark in (False, True):
            self.assertEqual(accessibility_faults(browser, page, dark), [])

    def test_pictures_that_are_not_kept_any_more_are_left_out(self) -> None:
        made = report(compared(BEFORE, AFTER), lambda _: None, PICTURES.get).decode()
        self.assertEqual((made.count("<img"), "what differs" in made.partition("<body")[2]), (1, False))


class Sayings(unittest.TestCase):
    def test_differences_and_shares(self) -> None:
        for was, now, gap, part in (
            (10, 12, "+2", "+20.0 %"), (1200, 200, "\u22121,000", "\u221283.3 %"), (0.146, 0.149, "+0.003", "+2.1 %"), (1.0, 1.0002, "+0.0002", "+0.02 %"), (0, 3, "+3", ""),
            (3, 3, "", ""), (None, 3, "", ""), (2.5, None, "", ""), (-4, -5, "\u22121", "\u221225.0 %"), (1e-9, 2e-9, "+1e-09", "+100.0 %"),
        ):  # fmt: skip
            with self.subTest(f"{was} {now}"):
                self.assertEqual((difference(was, now), share(was, now)), (gap, part))
        self.assertEqual((relative(0, 0), relative(0, -1), relative(None, 1)), (0.0, float("-inf"), None))

    def test_sums(self) -> None:
        found = compared(BEFORE, AFTER)
        self.assertEqual(counts(found), [("1", "number in words"), ("1", "cell of tables"), ("1", "figure"), ("1", "text"), ("1", "thing that came or went")])  # fmt: skip
        self.assertEqual(same_in_words(found), "1 cell, 1 text")
        self.assertEqual(same_in_words(compared(BEFORE, BEFORE)), "1 value, 2 cells, 1 table, 1 figure, 2 texts")

    def test_the_number_that_changed_is_marked_and_no_other(self) -> None:
        def of(number: int) -> Showing:
            value = ShownValue(str(number), "{= n}", "p.md:1:1", number)
            return Showing("t", (Words("paragraph", f"Of 14 rooms, {number} are open.", "", (value,), "", "Of 14 rooms, \ufffc are open."),))  # fmt: skip

        made = report(compared(of(3), of(4)), PICTURES.get, PICTURES.get).decode()
        self.assertIn("Of 14 rooms, <del>3</del> <ins>4</ins> are open.", made)

    def test_what_is_over_a_limit(self) -> None:
        change = NumberChange("10", "11", 10, 11, "", "", "11", 0, 0)
        self.assertEqual([is_over(change, limit) for limit in (0.05, 0.1, 0.2)], [True, False, False])
        over = [is_over(one, 0.5) for one in compared(BEFORE, AFTER).changes]
        self.assertEqual(
            over, [False, True, False, False, False], "a text and a drawing have no size, a heading no value"
        )

    def test_what_is_like_what(self) -> None:
        one, other = Table("", "", "Means of rooms", chunk="c"), Table("", "", "Means of halls", chunk="c")
        self.assertGreater(likeness(one, other), 0.5)
        self.assertEqual(likeness(one, Words("paragraph", "Means of rooms")), 0)
        self.assertEqual(likeness(Words("heading", "x"), Words("paragraph", "x")), 0)
        gone = Words("paragraph", "Something that is gone altogether now.")
        pairs = aligned(
            [Words("heading", "A"), gone, Words("heading", "B")], [Words("heading", "A"), Words("heading", "B")]
        )
        self.assertEqual(
            [(was is None, now is None) for was, now in pairs], [(False, False), (False, True), (False, False)]
        )

"""The record, and what differs between two of them."""

import unittest

from tests.support import FolderCase
from wornpage.colophon import differences
from wornpage.plan.codes import reader_of
from wornpage.press import press


class Colophons(FolderCase):
    PAGE = (
        "---\nseed: 3\ngiven: {n: 2}\n---\n\n```python run #draw\nimport random, datetime\nprint(random.random())\n```\n\n"
        "```python run #read\nimport pandas as pd\npd.read_csv('d.csv')\n```\n\n```python run #now\ndatetime.datetime.now().year > 0\n```\n"
    )

    def test_it_tells_what_a_page_was_made_with_and_from(self) -> None:
        self.write("d.csv", "a\n1\n")
        made = press(self.write("p.md", self.PAGE)).colophon
        again = press(self.folder / "p.md", afresh=True).colophon
        self.assertEqual(again, made)
        self.assertEqual((list(made.data), made.given), (["d.csv"], {"n": "2"}))
        self.assertLessEqual({"pandas", "numpy"}, set(made.packages))
        self.assertEqual([(c.label, bool(c.seed), [s.kind for s in c.shown]) for c in made.chunks],
                         [("draw", True, ["output"]), ("read", False, ["table"]), ("now", False, ["value"])])  # fmt: skip
        self.assertEqual(
            [w for w in made.weaknesses if "clock" in w], ["`now` reads the clock (datetime.datetime.now())"]
        )

    def test_differences_are_told_chunk_by_chunk(self) -> None:
        self.write("d.csv", "a\n1\n")
        before = press(self.write("p.md", self.PAGE)).colophon.to_data()
        self.assertEqual(differences(before, before), [])
        self.write("d.csv", "a\n7\n")
        after = press(
            self.write("p.md", self.PAGE.replace("#draw", "#drawn").replace("seed: 3", "seed: 4"))
        ).colophon.to_data()
        found = "\n".join(differences(before, after))
        for words in (
            "the page's text: ",
            "data d.csv: ",
            "chunk `draw`: is not there any more",
            "chunk `drawn`: is new",
            "chunk `read`: its table differs",
            "-a: 1",
        ):
            self.assertIn(words, found)
        self.assertEqual(
            differences({**before, "packages": {"pandas": "3.0"}}, {**before, "packages": {"pandas": "3.1"}}),
            ["library pandas: 3.0 → 3.1"],
        )


class Clock(unittest.TestCase):
    def test_calls_that_ask_for_the_time(self) -> None:
        for code, told in (("import time\ntime.time()", "time.time()"), ("pd.Timestamp.now()", "pd.Timestamp.now()"), ("date.today()", "date.today()"),
                           ("x.time", ""), ("clock.now()", ""), ("x = = 1", "")):  # fmt: skip
            self.assertEqual(reader_of("python").clock(code), told)

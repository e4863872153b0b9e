"""What a change changed: each kind of difference, what is the same, and the way to both sides."""

from __future__ import annotations

import json
import os
import re
import subprocess
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from tests.support import FolderCase, worn
from wornpage.compare.changes import CellChange, FigureChange, NumberChange, PartChange, RowsChange, WordsChange
from wornpage.compare.comparing import compared, word_changes
from wornpage.compare.data import described
from wornpage.compare.versions import now_of
from wornpage.press import press
from wornpage.showing.keeping import MOST, Kept
from wornpage.showing.parts import Part, Showing, ShownValue, Table, Words

DATA = "book,branch,ph,loans\n" + "".join(
    f"B{n:02d},{'Quayside' if n % 2 else 'Millpond'},{4 + n / 10:.1f},{n}\n" for n in range(20)
)
PAGE = """
    ---
    title: Books
    given: {least: 5}
    ---

    ```python run #load show=nothing
    import pandas as pd
    import matplotlib.pyplot as plt
    books = pd.read_csv("books.csv")
    means = books.groupby("branch").agg(Volumes=("book", "size"), pH=("ph", "mean"))
    ```

    # Of {= len(books)} books

    There are {= len(books)} books of pH {= books.ph.mean() as 1 decimal}, and {= (books.ph < given.least).mean() as percent} are acid.[^note]

    [^note]: Measured {= len(books)} times.

    Nothing of this hangs on the data.

    ```python run #costs show=output
    page.table(means, caption="Means of {= len(books)} books.", label="costs")
    print(f"of {len(books)} printed")
    ```

    ```python run #bars show=output
    plt.figure(figsize=(3, 2))
    plt.plot(books.ph.to_numpy())
    ```

    Caption: Of {= len(books)}.
    """


class Pages(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("books.csv", DATA)
        self.page = self.write("page.md", PAGE)
        press(self.page, ["html"])

    def compare(self, *arguments: str, code: int = 0) -> dict[str, object]:
        done = worn("compare", "page.md", "--json", *arguments, folder=self.folder)
        self.assertEqual(done.returncode, code, done.stderr)
        told: dict[str, object] = json.loads(done.stdout)
        return told

    def test_what_deleted_rows_change(self) -> None:
        lines = DATA.splitlines()
        self.write("books.csv", "\n".join([*lines[:3], lines[3].replace("4.2,2", "9.9,2"), *lines[6:]]) + "\n")
        told = self.compare()
        changes = told["changes"]
        assert isinstance(changes, list)
        numbers = {(one["before"], one["after"], one["expression"]) for one in changes if one["type"] == "number"}
        self.assertTrue({("20", "18", "{= len(books)}"), ("of 20 printed"[3:5], "18", "")} <= numbers, numbers)
        self.assertIn(("5.0", "5.3", "{= books.ph.mean() as 1 decimal}"), numbers)
        cells = {(one["row"], one["column"], one["before"], one["after"]) for one in changes if one["type"] == "cell"}
        self.assertIn(("Quayside", "Volumes", "10", "9"), cells)
        self.assertEqual([one["label"] for one in changes if one["type"] == "figure"], ["bars"])
        self.assertEqual({one["type"] for one in changes}, {"number", "cell", "figure"})
        self.assertEqual(
            told["data"],
            [{"path": "books.csv", "what": ["2 rows went: B03, B04", "`ph` changed in 1 row: B02: 4.2 → 9.9"]}],
        )
        self.assertGreaterEqual(told["same"]["texts"], 1)  # type: ignore[index]
        self.compare("--fail-over", "50%")
        self.compare("--fail-over", "9%", code=1)
        press(self.page, ["html"])
        again = self.compare()
        self.assertEqual(again["changes"], changes)
        self.assertIn("load", [one["label"] for one in again["ran"]])  # type: ignore[index,union-attr]

    def test_words_parts_givens_and_forms(self) -> None:
        text = (
            PAGE.replace("Nothing of this", "Little of that")
            .replace("as 1 decimal", "as 2 decimals")
            .replace("least: 5", "least: 4")
        )
        self.write("page.md", text.replace('print(f"of', 'print("more", f"of') + "\n    A new one, {= 7}.\n")
        told = self.compare()
        changes = told["changes"]
        assert isinstance(changes, list)
        words = [one for one in changes if one["type"] == "words"]
        self.assertIn([["went", "Nothing"], ["came", "Little"], ["same", " of "], ["went", "this"], ["came", "that"], ["same", " hangs on the data."]], [one["pieces"] for one in words])  # fmt: skip
        self.assertIn(("5.0", "4.95"), [(one["before"], one["after"]) for one in changes if one["type"] == "number"])
        self.assertEqual([(one["came"], one["part"]["text"]) for one in changes if one["type"] == "part"], [(True, "A new one, 7.")])  # fmt: skip
        self.assertEqual(
            [(one["kind"], one["name"], one["after"]) for one in told["others"]], [("given", "least", "4")]
        )  # type: ignore[index,union-attr]

    def test_the_report_shows_figures_and_reaches_nothing(self) -> None:
        self.write("books.csv", DATA + "B99,<b>,3.1,5\n")
        done = worn("compare", "page.md", "--report", "out.html", folder=self.folder)
        self.assertEqual((done.returncode, done.stdout.splitlines()[-1]), (0, "out.html"), done.stderr)
        made = (self.folder / "out.html").read_text()
        self.assertEqual(made.count("data:image/svg+xml"), 4)
        self.assertNotIn("<b>B99", made)
        self.assertFalse(re.findall(r'(?:src|href)="(?!data:)', made))
        self.assertEqual(worn("compare", "page.md", "--report", "page.md", folder=self.folder).returncode, 2)

    def test_records_commits_and_editions(self) -> None:
        worn("compare", "page.md", "--write", "release.json", folder=self.folder)
        for command in (
            ["init", "-q"],
            ["add", "page.md"],
            ["-c", "user.name=a", "-c", "user.email=a@b", "commit", "-qm", "one"],
        ):
            subprocess.run(["git", *command], cwd=self.folder, check=True)
        self.write("page.md", PAGE.replace("as percent", "as 0 decimals"))
        for asked in ("release.json", "HEAD", "1"):
            told = self.compare("--with", asked)
            self.assertEqual([(one["before"], one["after"]) for one in told["changes"]], [("50.0%", "0")], asked)  # type: ignore[index,union-attr]
        self.write(
            "page.md",
            PAGE.replace("given: {least: 5}", "given: {least: 5}\n    editions: {combine: {least: [5, 6]}}"),
        )
        told = self.compare("--editions", "5", "6")
        self.assertIn(("50.0%", "100.0%"), [(one["before"], one["after"]) for one in told["changes"]])  # type: ignore[index,union-attr]
        for asked in ("nosuch", "books.csv", "7", "--upload-pack=x"):
            done = worn("compare", "page.md", f"--with={asked}", folder=self.folder)
            self.assertEqual((done.returncode, "Traceback" in done.stderr), (2, False), done.stderr)

    def test_the_last_ten_are_kept_and_damage_is_none(self) -> None:
        for least in range(MOST + 3):
            press(self.page, ["html"], given={"least": least})
        kept = Kept(self.page)
        self.assertEqual([one.given["least"] for one in kept.all()], [f"{n}" for n in range(MOST + 2, 2, -1)])
        press(self.page, ["html"], given={"least": MOST + 2}, afresh=True)
        self.assertEqual(len(list(kept.all())), MOST, "it shows the same")
        files = sorted((self.folder / ".worn").rglob("*.shown"))
        files[-1].write_bytes(b"x" * 40)
        files[0].rename(files[1])
        self.assertEqual(len(list(kept.all())), MOST - 3)


class Comparing(unittest.TestCase):
    def showing(self, *parts: Part) -> Showing:
        return Showing("t", parts)

    def test_tables_that_are_longer_wider_or_named_otherwise(self) -> None:
        one = Table("t", "Table 1", "C", heads=("", "n (of 20)", "old"), rows=(("a", "1", "x"), ("b", "2", "y")), exact=((None, 1.04, None), (None, 2, None)), named_by=1)  # fmt: skip
        other = Table("t", "Table 1", "C", heads=("", "n (of 21)", "new"), rows=(("b", "2", "z"), ("c", "3", "z")), exact=((None, 2, None), (None, 3, None)), named_by=1)  # fmt: skip
        found = compared(self.showing(one), self.showing(other)).changes
        self.assertEqual([(one.came, one.went) for one in found if isinstance(one, RowsChange)], [(("new",), ("old",)), (("c",), ("a",))])  # fmt: skip
        self.assertEqual([(one.row, one.before, one.after) for one in found if isinstance(one, CellChange)], [("head", "n (of 20)", "n (of 21)")])  # fmt: skip

    def test_rows_that_roll_on_are_others_and_those_counted_anew_are_the_same(self) -> None:
        def table(*names: str) -> Showing:
            rows = tuple((name, str(at)) for at, name in enumerate(names))
            return self.showing(Table("t", "Table 1", "C", heads=("", "n"), rows=rows, named_by=1))

        found = compared(table("2025 Q1", "2025 Q2", "2025 Q3"), table("2025 Q2", "2025 Q3", "2025 Q4")).changes
        self.assertEqual([(one.came, one.went) for one in found if isinstance(one, RowsChange)], [(("2025 Q4",), ("2025 Q1",))])  # fmt: skip
        found = compared(table("Quay (n = 20)", "Mill (n = 7)"), table("Quay (n = 21)", "Mill (n = 7)")).changes
        self.assertEqual([one for one in found if isinstance(one, RowsChange)], [])

    def test_a_part_that_moves_is_neither_new_nor_gone_in_a_run(self) -> None:
        texts = [Words("paragraph", f"A text about {name} and what it means.") for name in ("paper", "loans", "damp")]
        found = compared(self.showing(*texts), self.showing(texts[0], Words("paragraph", "Quite another."), *texts[1:]))
        self.assertEqual([type(one) for one in found.changes], [PartChange])
        self.assertEqual(found.same["texts"], 3)

    @given(st.lists(st.sampled_from(["a b", "c d e", "f 1", "g 2.5 h"]), max_size=8), st.lists(st.sampled_from(["a b", "c x e", "f 3", "g 2.5 h"]), max_size=8))  # fmt: skip
    def test_every_part_is_the_same_changed_new_or_gone(self, first: list[str], second: list[str]) -> None:
        was = self.showing(*(Words("paragraph", one) for one in first))
        now = self.showing(*(Words("paragraph", one) for one in second))
        found = compared(was, now)
        parts = [one for one in found.changes if isinstance(one, PartChange)]
        came, went = sum(one.came for one in parts), sum(not one.came for one in parts)
        self.assertEqual(len(first) - went, len(second) - came)
        self.assertEqual(compared(now, now).changes, ())
        self.assertEqual(found.is_empty, first == second)

    @given(st.text(max_size=30), st.text(max_size=30))
    def test_words_are_all_told(self, was: str, now: str) -> None:
        pieces = word_changes(was, now)
        self.assertEqual("".join(words for kind, words in pieces if kind != "came"), was)
        self.assertEqual("".join(words for kind, words in pieces if kind != "went"), now)

    def test_a_value_that_changes_below_its_digits(self) -> None:
        def part(number: float) -> Words:
            return Words(
                "paragraph", "It is 4.7.", values=(ShownValue("4.7", "{= x}", "p:1:1", number),), frame="It is \ufffc."
            )

        found = compared(self.showing(part(4.66)), self.showing(part(4.71)))
        self.assertTrue(found.is_empty)
        self.assertEqual([(one.was, one.now) for one in found.changes if isinstance(one, NumberChange)], [(4.66, 4.71)])
        self.assertFalse([one for one in found.changes if isinstance(one, WordsChange | FigureChange)])

    def test_files_of_data(self) -> None:
        def said(path: str, before: str, after: str) -> str:
            return "; ".join(described(path, before.encode(), after.encode()))

        self.assertEqual(said("a.csv", "k,x\na,1\nb,2\n", "k,x,y\nb,3,0\nc,1,0\n"), "new columns: y; 1 row went: a; 1 row came: c; `x` changed in 1 row: b: 2 → 3")  # fmt: skip
        self.assertEqual(said("a.csv", "x\n1.5\n1.5\n", "x\n1.5\n"), "2 rows → 1 row; 0 rows came, 1 row went")
        self.assertEqual(
            said("a.tsv", "k\tx\na\t1\n", "k\tx\na\tone\n").partition(";")[0], "`x` is str now, and was int64"
        )
        self.assertEqual(said("a.csv", "k,x\na,1\n", "k,x\r\na,1\r\n"), "the same rows are written otherwise")
        self.assertEqual(said("a.txt2", "one\ntwo\n", "one\nthree\nfour\n"), "2 lines came, 1 line went")
        self.assertIn("not kept", "".join(described("a.csv", None, b"x")))
        self.assertTrue(said("a.csv", "", "\x00\n"))


class Programs(FolderCase):
    def test_names_of_files_that_are_no_text_break_nothing(self) -> None:
        (self.folder / os.fsdecode(b"caf\xe9.csv")).write_text("a\n1\n2\n")
        code = (
            'import os\nname = [f for f in os.listdir() if f.startswith("caf")][0]\nn = len(open(name).read().split())'
        )
        self.write("page.md", f'```python run #load\n{code}\n```\n\nOf {{= n}} and {{= "\\ud800x"}}.\n')
        worn("press", "page.md", folder=self.folder)
        for command in ("origin page.md 3", "origin page.md 3 --json", "status page.md --of load", "compare page.md", "compare page.md --write r.json", "compare page.md --with r.json --json", "environment page.md", "pack page.md", "check page.md --before-sharing"):  # fmt: skip
            done = worn(*command.split(), folder=self.folder)
            self.assertEqual((done.returncode, "fault" in done.stderr), (0, False), (command, done.stderr))

    def test_a_page_that_was_never_pressed_is_told_so(self) -> None:
        self.write("page.md", "Of {= 1 + 1}.\n")
        done = worn("compare", "page.md", folder=self.folder)
        self.assertEqual((done.returncode, "Press it first" in done.stderr), (2, True), done.stderr)
        self.assertEqual(now_of(Path(self.folder / "page.md"), None, {}).showing.parts[0].text, "Of 2.")  # type: ignore[union-attr]

"""The outputs of a page against the page, and files against each other."""

from __future__ import annotations

import json
import re
import shutil
import zipfile

from tests.support import FolderCase, worn
from wornpage.compare.reading import is_output
from wornpage.press import press

PAGE = """
    ---
    title: "Of {= n} books"
    abstract: "In short: {= n}."
    ---

    ```python run #load
    n = 20
    means = {"place": ["Quayside", "Millpond"], "pH": [4.25, 6.5], "n": [n, 7]}
    ```

    # The books

    There are {= n} books, $x^2 + 1$ by the formula, and {= n / 7 as 2 decimals} a week.[^n] They stand well.

    [^n]: A note on {= n + 1}.

    ::: in html

    Only here: {= n + 5}.

    :::

    ```python run #costs show=output
    page.table(means, caption="Means of $y$ in two places.", label="costs")
    ```

    A long sentence without any number at all, which is to be found in every one of the outputs that there are.
    """
KINDS = ["html", "pdf", "docx", "epub", "slides", "pptx"]


class Outputs(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        press(self.write("page.md", PAGE), KINDS)

    def checked(self) -> dict[str, list[tuple[str, str]]]:
        done = worn("compare", "page.md", "--outputs", "--json", folder=self.folder)
        told = json.loads(done.stdout)
        self.assertEqual(done.returncode, int(any(one["missing"] for one in told)), done.stderr)
        self.assertTrue(all(one["count"] > 15 for one in told))
        return {one["output"]: [(lack["kind"], lack["said"]) for lack in one["missing"]] for one in told}

    def test_they_say_what_the_page_says_and_what_they_do_not_is_found(self) -> None:
        self.assertEqual(self.checked(), {kind: [] for kind in KINDS})
        html = self.folder / "page.html"
        html.write_text(
            re.sub(r"books, (.*?)2\.86", r"books, \g<1>2.68", html.read_text(), flags=re.DOTALL).replace(
                "Only here: 25", "Only here: 26"
            )
        )
        docx, new = self.folder / "page.docx", self.folder / "new.docx"
        with zipfile.ZipFile(docx) as old, zipfile.ZipFile(new, "w") as made:
            for name in old.namelist():
                data = old.read(name)
                made.writestr(name, data.replace(b"4.25", b"4.52") if name == "word/document.xml" else data)
        shutil.copy(docx, self.folder / "old.docx")
        new.replace(docx)
        found = self.checked()
        self.assertEqual((found["html"], found["docx"]), ([("value", "2.86"), ("value", "25")], [("cell", "4.25")]))
        self.assertEqual([found[kind] for kind in ("pdf", "epub", "slides", "pptx")], [[], [], [], []])
        told = json.loads(worn("compare", "old.docx", "--with", "page.docx", "--json", folder=self.folder).stdout)
        self.assertEqual({(one["before"], one["after"]) for one in told["changes"]}, {("4.25", "4.52")})
        told = json.loads(worn("compare", "page.pdf", "--with", "page.epub", "--json", folder=self.folder).stdout)
        self.assertGreaterEqual(told["same"]["texts"], 3)

    def test_a_sign_that_is_lost_is_found(self) -> None:
        press(
            self.write("signs.md", "It fell by {= -4.25} to {= -0.5 as 1 decimal}, a co-worker of room B-12 said.\n"),
            ["html"],
        )
        html = self.folder / "signs.html"
        done = worn("compare", "signs.md", "--outputs", "--json", folder=self.folder)
        self.assertEqual([one["missing"] for one in json.loads(done.stdout)], [[]])
        html.write_text(re.sub(r"[-\u2212](?=4\.25)", "", html.read_text()))
        done = worn("compare", "signs.md", "--outputs", "--json", folder=self.folder)
        self.assertEqual([lack["said"] for lack in json.loads(done.stdout)[0]["missing"]], ["\u22124.25"])

    def test_pages_in_host_texts_are_no_outputs_and_what_is_made_of_them_is(self) -> None:
        for name, text, is_made in (
            ("a.html", "<p>Of <worn-value>1 + 1</worn-value>.</p>", False),
            ("b.html", "<p>Of 2.</p>", True),
            ("c.rst", "Of :worn:`1 + 1`.\n", False),
            ("d.tex", "\\begin{chunk}{python}\nn = 1\n\\end{chunk}\n", False),
            ("e.tex", "Of 2.\n", True),
            ("f.md", "Of 2.\n", False),
            ("g.pdf", "", True),
        ):
            self.assertEqual(is_output(self.write(name, text)), is_made, name)

    def test_files_that_are_none_are_told(self) -> None:
        self.write("bad.pdf", b"no PDF")
        self.write("bad.docx", b"PK\x03\x04")
        for one, other in (("bad.pdf", "page.docx"), ("page.docx", "bad.docx"), ("page.docx", "none.docx"), ("page.pdf", "page.zip")):  # fmt: skip
            done = worn("compare", one, "--with", other, folder=self.folder)
            self.assertEqual((done.returncode, "Traceback" in done.stderr), (2, False), done.stderr)
        self.write("new.md", "Words.\n")
        done = worn("compare", "new.md", "--outputs", folder=self.folder)
        self.assertEqual((done.returncode, "Press it first" in done.stderr), (2, True))

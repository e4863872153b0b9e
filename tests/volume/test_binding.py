"""Volumes: one numbering and one set of references over many pages, and no more work than a change asks for."""

import json
import re
import zipfile

from tests.collate.editing import Editor
from tests.output.docx.documents import invalid
from tests.output.test_epub import faults_of
from tests.output.test_pdf import text_of
from tests.support import FolderCase, worn
from tests.volume.made import VolumeCase
from wornpage.collate.collating import Asked, collate


def words(html: str) -> str:
    """What a page says."""
    main = html[html.index("<main") : html.index("</main>")]
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", "", main)).replace("\u00a0", " ").replace("&nbsp;", " ")


class Numbers(VolumeCase):
    def test_chapters_and_what_they_hold_are_numbered_and_pointed_across_pages(self) -> None:
        told = self.bound()
        pages = [(one["page"], one["edition"], one["number"]) for one in told["pages"]]
        self.assertEqual(
            pages,
            [("preface.md", "", ""), ("chapters/paper.md", "", "1"), ("chapters/damp-2.md", "", "2"),
             ("chapters/damp-10.md", "", "3"), ("branch.md", "Quayside", "4"), ("branch.md", "North Gate", "5"), ("terms.md", "", "A")],
        )  # fmt: skip
        self.assertEqual(told["problems"], [])
        preface = self.page("preface.html")
        self.assertIn("It begins with Chapter 1 and Chapter 2; look at Table 1.1 and Equation 2.1", words(preface))
        self.assertIn('href="chapters/damp-2.html#text"', preface)
        self.assertIn('href="references.html#ref-moss"', preface)
        paper = self.page("chapters/paper.html")
        self.assertIn("Appendix A, Section 2.1. There.", words(paper))
        self.assertIn('href="../chapters/damp-10.html#text"', paper, "a name of a page leads to it")
        self.assertIn('<h1><span class="number">1</span>Paper</h1>', paper, "a first heading becomes the title")
        self.assertIn("The branch of NORTH GATE, Equation 2.1.", words(self.page("branch/North-Gate.html")))
        self.assertIn("Figure 1.1", words(self.page("chapters/damp-10.html")))
        index = self.page("index-of-terms.html")
        self.assertIn('damp, <a href="chapters/damp-10.html#index-1">3.1</a><ul><li>of walls', index)
        self.assertIn("<em>see</em> damp", index)
        self.assertIn("Reed", self.page("references.html"))

    def test_straight_numbers_and_references_of_each_chapter(self) -> None:
        self.change("volume.yaml", "name: handbook", "name: handbook\nnumbers: straight-through\nreferences: both")
        self.bound()
        self.assertIn("Equation 1", words(self.page("preface.html")))
        self.assertIn("(2)", words(self.page("chapters/damp-10.html")))
        self.assertIn("Moss, B.", words(self.page("preface.html")))
        self.assertNotIn("Reed, A.", words(self.page("preface.html")))
        self.assertIn("Reed, A.", words(self.page("references.html")))

    def test_wrong_pointers_are_told_with_what_was_meant(self) -> None:
        self.change("preface.md", "{see paper}", "{see papers} {see intro}")
        told = self.bound(status=1)
        said = [problem["what"] + " " + problem["hint"] for problem in told["problems"]]
        self.assertRegex(said[0], "nothing is labelled 'papers'. .*'paper'")
        self.assertRegex(said[1], "several pages have the label 'intro'.*{see page/intro}")


class Reuse(VolumeCase):
    def test_only_what_a_change_asks_for_is_run_and_written(self) -> None:
        self.bound()
        before = {name: self.page(name) for name in self.files() if name.endswith(".html")}
        again = worn("bind", folder=self.folder)
        self.assertIn("nothing to do", again.stderr)
        self.change("chapters/damp-2.md", "Wet words", "Damp words")
        worn("bind", folder=self.folder)
        changed = [name for name, text in before.items() if self.page(name) != text]
        self.assertEqual(changed, ["chapters/damp-2.html"])

    def test_moving_chapters_runs_nothing_and_renumbers_all(self) -> None:
        self.bound()
        self.change("volume.yaml", "pages: [chapters/paper.md]", "pages: [chapters/damp-10.md, chapters/paper.md]")
        told = self.bound()
        self.assertEqual({one["outcome"] for one in told["pages"]}, {"unchanged"})
        self.assertIn(
            "begins with Chapter 2 and Chapter 3; look at Table 2.1 and Equation 3.1", words(self.page("preface.html"))
        )

    def test_what_it_writes_does_not_hang_on_what_was_there(self) -> None:
        self.bound("--as", "html,pdf,epub")
        self.change("chapters/damp-2.md", "Wet words", "Damp words")
        self.change("volume.yaml", "pages: [chapters/paper.md]", "pages: [chapters/damp-10.md, chapters/paper.md]")
        self.bound("--as", "html,pdf,epub")
        partly = {name: (self.folder / "bound" / name).read_bytes() for name in self.files()}
        self.bound("--as", "html,pdf,epub", "--afresh", "--out", "anew")
        whole = {path.relative_to(self.folder / "anew").as_posix(): path.read_bytes() for path in (self.folder / "anew").rglob("*") if path.is_file()}  # fmt: skip
        self.assertEqual(sorted(partly), sorted(whole))
        self.assertEqual([name for name, data in whole.items() if partly[name] != data], [])

    def test_files_of_pages_that_are_gone_go_and_others_never(self) -> None:
        self.bound()
        self.write("bound/chapters/mine.html", "mine")
        self.write("bound/terms.html", "changed by hand")
        (self.folder / "chapters/damp-10.md").unlink()
        self.change("chapters/paper.md", "[There](#damp-10).", "")
        self.change("volume.yaml", "appendix: [terms.md]", "")
        self.change("chapters/paper.md", "{see terms}, ", "")
        told = self.bound()
        self.assertEqual(told["taken-away"], ["chapters/damp-10.html"])
        self.assertIn("chapters/mine.html", self.files())
        self.assertEqual(self.page("terms.html"), "changed by hand")

    def test_a_new_page_that_a_pattern_takes_is_seen(self) -> None:
        self.bound()
        self.write("chapters/damp-3.md", "---\ntitle: Dew\n---\n\nDew.\n")
        self.bound()
        self.assertIn("Dew", self.page("index.html"))

    def test_a_kept_draft_that_is_gone_is_made_again(self) -> None:
        self.bound()
        for path in (self.folder / ".worn").rglob("drafts-*/*"):
            path.write_bytes(b"nonsense")
        self.change("chapters/damp-2.md", "Wet words", "Damp words")
        self.assertEqual(self.bound()["problems"], [])
        self.assertIn("The branch of QUAYSIDE", self.page("branch/Quayside.html"))


class Failing(VolumeCase):
    def test_a_page_that_fails_is_told_and_the_rest_is_written(self) -> None:
        self.change("chapters/damp-2.md", "Wet words", "Wet {= 1 / 0} words")
        done = worn("bind", folder=self.folder)
        self.assertEqual(done.returncode, 1)
        self.assertIn("chapters/damp-2.md:6:5", done.stderr)
        self.assertIn("could not be pressed", self.page("chapters/damp-2.html"))
        self.assertIn("Chapter 2; look at Table 1.1 and ?", words(self.page("preface.html")))
        self.assertNotIn("nothing is labelled", done.stderr, "what points there is not at fault")
        self.change("chapters/damp-2.md", "1 / 0", "1 / 1")
        self.change("preface.md", "{see sheets, hum}", "{see sheets, hum}")
        self.bound()
        self.assertIn("Wet 1 words", words(self.page("chapters/damp-2.html")))

    def test_one_page_alone(self) -> None:
        self.bound()
        self.change("chapters/damp-2.md", "Wet words", "Damp words")
        self.change("preface.md", "It begins", "It starts")
        self.bound("--only", "damp-2")
        self.assertIn("Damp words", self.page("chapters/damp-2.html"))
        self.assertIn("It begins", self.page("preface.html"))
        wrong = worn("bind", "--only", "dampp-2", folder=self.folder)
        self.assertEqual((wrong.returncode, "Did you mean 'damp-2'" in wrong.stderr), (2, True))

    def test_faults_of_the_list_have_their_places(self) -> None:
        self.change("volume.yaml", "front: [preface.md]", "front: [prefase.md]\nnumbres: x")
        self.change("volume.yaml", "appendix: [terms.md]", "appendix: [terms.md, nowhere/*.md, chapters/paper.md]")
        done = worn("bind", folder=self.folder)
        self.assertEqual(done.returncode, 1)
        for said in ("volume.yaml:7:9: there is no page 'prefase.md'. Did you mean 'preface.md'?", "volume.yaml:8:1: there is no setting 'numbres'",
                     "volume.yaml:14:22: no page fits 'nowhere/*.md'.", "'chapters/paper.md' stands already in line 9"):  # fmt: skip
            self.assertIn(said, done.stderr)
        nothing = worn("bind", "elsewhere", folder=self.folder)
        self.assertEqual(nothing.returncode, 2)


class Handing(FolderCase):
    def test_a_page_that_reads_what_another_writes_has_it_though_they_run_side_by_side(self) -> None:
        self.write("volume.yaml", "title: T\npages: [maker.md, reader.md, other.md]\n")
        code = "import time, pathlib\ntime.sleep(0.6)\n_ = pathlib.Path('made.txt').write_text('{}')"
        self.write("maker.md", f"---\ntitle: M\n---\n\n```python run\n{code.format('one')}\n```\n")
        self.write("reader.md", "---\ntitle: R\n---\n\n```python run\nprint(open('made.txt').read() * 2)\n```\n")
        self.write("other.md", "---\ntitle: O\n---\n\n```python run\nprint(7)\n```\n")
        for word in ("one", "two"):
            self.write("maker.md", f"---\ntitle: M\n---\n\n```python run\n{code.format(word)}\n```\n")
            done = worn("bind", "--json", "--jobs", "2", folder=self.folder)
            self.assertEqual(done.returncode, 0, done.stdout)
            self.assertIn(word * 2, (self.folder / "bound/reader.html").read_text("utf-8"))


class Documents(VolumeCase):
    def test_the_whole_is_one_document_of_each_kind(self) -> None:
        told = self.bound("--as", "pdf,docx,epub")
        self.assertEqual([one["path"].rpartition("/")[2] for one in told["outputs"]], ["handbook.pdf", "handbook.docx", "handbook.epub"])  # fmt: skip
        self.assertEqual(invalid(self.folder / "bound/handbook.docx"), [])
        with zipfile.ZipFile(self.folder / "bound/handbook.docx") as archive:
            document = archive.read("word/document.xml").decode()
        self.assertIn("Part Title" if "Part Title" in document else "PartTitle", document)
        self.assertIn("SEQ Equation \\* ARABIC \\s 1 \\r 1", document)

    def test_sheets_before_what_begins_on_the_right_are_empty(self) -> None:
        for stationery in ("book", "manuscript"):
            with self.subTest(stationery):
                self.write(
                    "volume.yaml",
                    f"title: T\nchapters-begin: right-hand\nstationery: {stationery}\n"
                    "pages: [a.md]\nparts: [{title: P, pages: [b.md]}]\n",
                )
                self.write("a.md", "# A\n\nOne two three.\n")
                self.write("b.md", "# B\n\nFour five.\n")
                self.bound("--as", "pdf", "--out", stationery)
                sheets = text_of(next((self.folder / stationery).glob("*.pdf"))).split("\f")[:-1]
                begun = [
                    next(at for at, one in enumerate(sheets) if said in one and at > 1) for said in ("One", "Four")
                ]
                self.assertEqual([at % 2 for at in begun], [0, 0])
                self.assertEqual(sheets[begun[0] + 1].strip() + sheets[begun[1] - 1].strip(), "")
                self.assertEqual("5 words" in sheets[0], stationery == "manuscript")

    def test_a_document_for_each_chapter_comes_back_into_its_page(self) -> None:
        self.bound("--as", "docx", "--each")
        editor = Editor(self.folder / "bound/chapters/damp-2.docx", "Bea Roth")
        editor.replace("Wet words", "Dry words")
        editor.replace("Rain", "Rainfall")
        editor.save(self.folder / "back.docx")
        made = collate(Asked(self.folder / "chapters/damp-2.md", (self.folder / "back.docx",)))
        self.assertEqual({edit.outcome for edit in made.edits}, {"merged"})
        before = (self.folder / "chapters/damp-2.md").read_text(encoding="utf-8")
        self.assertEqual(made.text, before.replace("Wet words", "Dry words").replace("Rain", "Rainfall"))

    def test_pages_alone_and_in_a_volume_know_their_settings(self) -> None:
        self.write("volume.yaml", VOLUME_WITH_SETTINGS)
        self.bound()
        self.assertIn("<h2", self.page("chapters/damp-2.html"))
        self.assertNotIn("2.1", words(self.page("chapters/damp-2.html")), "the volume's `section-numbers: no`")
        alone = worn("press", "chapters/damp-2.md", folder=self.folder)
        self.assertEqual(alone.returncode, 0, alone.stderr)

    def test_a_page_alone_says_what_lies_in_the_volume_as_it_was_bound_last(self) -> None:
        self.write("volume.yaml", "pages: [one.md, two.md]\n")
        self.write("two.md", "# Two\n\n## Damp {#damp}\n")
        self.write("one.md", "# One\n\n{see damp}; {see damp as number}; {see damp as title}; [it](#damp).\n")
        self.assertEqual(worn("press", "one.md", folder=self.folder).returncode, 1, "nothing is known of it yet")
        self.bound()
        alone = worn("press", "one.md", folder=self.folder)
        self.assertEqual(alone.returncode, 0, alone.stderr)
        self.assertIn("one.md:3:1: warning: this leads into the volume, to Section\u00a02.1", alone.stderr)
        said = words((self.folder / "one.html").read_text(encoding="utf-8"))
        self.assertIn("Section 2.1; 2.1; Damp; it.", said)


NASTY = {
    "volume.yaml": """
        title: "A <b>& \\"b\\"</b> $x^2$"
        authors: ["A <i>B</i>"]
        abstract: "With *marks*, $y^2$ and {see Über-Papier}."
        front: [index.md]
        pages: ["a/Über Papier.md", a/same.md, b/same.md, references.md, last.md]
        parts: [{title: "Part <b>", pages: [de.md]}, {title: Empty}]
        downloads: [pdf, code, data]
        """,
    "index.md": "# Welcome\n\n{contents}\n\n{see a/same}, {see b/same/x}, [x](#a/same/x), {see chap}.\n\n## More {#chap}\n",
    "a/Über Papier.md": """
        ---
        title: "T $x^2$, *e*, `c`, <b>t</b>, {= 2 + 2 as words}"
        ---
        [^n]: One {see x}.

        # One {#x}

        Text[^n], again[^n].{index <b>b</b>}{index ünder: sub}

        | a | b |
        |---|---|
        | 1[^t] | {see tab} |

        [^t]: In a table.

        Caption: Tab with [link](https://x.example).
        Label: tab

        {appendix}

        # App

        ```python run #p
        import matplotlib.pyplot as plt
        for _ in range(2):
            plt.figure(); plt.plot([1, 2])
        ```
        Caption: Two parts.

        See {see p.a, p.b}.
        """,
    "a/same.md": "# X {#x}\n\nText {see x}.\n\n# Y\n\n{figures}\n\n{references}\n",
    "b/same.md": "# X {#x}\n\nText {see x}.\n\n# Y\n\n{index}\n",
    "references.md": "---\ntitle: Mine\n---\nx\n",
    "last.md": "",
    "de.md": "---\ntitle: D\nlanguage: de\nstationery: journal\n---\n# Kapitel\n\n{see tab}\n",
}


class Nasty(FolderCase):
    def test_whatever_pages_are_called_and_say(self) -> None:
        for name, text in NASTY.items():
            self.write(name, text)
        done = worn("bind", "--as", "html,pdf,epub,docx", "--json", folder=self.folder)
        self.assertEqual((done.returncode, json.loads(done.stdout)["problems"]), (0, []), done.stderr)
        root = self.folder / "bound"
        there = {path.relative_to(root).as_posix() for path in root.rglob("*") if path.is_file()}
        self.assertLessEqual({"index.html", "a/Über Papier.html", "a/Über Papier.pdf", "a/Über Papier.py", "references-page.html", "search.js"}, there)  # fmt: skip
        self.assertEqual(faults_of(next(root.glob("*.epub"))), [])
        self.assertEqual(invalid(next(root.glob("*.docx"))), [])
        said = words((root / "de.html").read_text(encoding="utf-8"))
        self.assertIn("Tabelle 1.1", said, "in the language of the page that points")


VOLUME_WITH_SETTINGS = "title: T\nsection-numbers: no\npages: [chapters/damp-2.md]\n"


class Starter(VolumeCase):
    def test_a_new_volume_binds_as_it_is(self) -> None:
        made = worn("new", "my-book", "--kind", "volume", folder=self.folder)
        self.assertEqual(made.returncode, 0, made.stderr)
        done = worn("bind", "my-book", "--as", "html,pdf,epub", "--json", folder=self.folder)
        self.assertEqual((done.returncode, json.loads(done.stdout)["problems"]), (0, []), done.stderr)

"""Documents: valid, native, the same bytes twice, every word there in an office program."""

import re
import zipfile

from PIL import Image

from tests.output.docx.documents import W, invalid, loose_ends, part, parts, shown, styles, together, words
from tests.output.test_pdf import EVERYTHING
from tests.support import FolderCase
from wornpage.press import press

PAGE = """
    ---
    title: The *damp* room
    authors:
      - {name: Ada Lund, affiliation: Quayside branch, email: ada@marlow.example, corresponding: yes}
      - {name: Imke Sandoval, affiliation: [Quayside branch, Conservation]}
    abstract: Damp wears paper.
    keywords: [damp, paper]
    ---

    {contents}

    # Rooms

    It is {see fig-room}, {see fig-room as number}, {see tab}, {see eq}, {see cellar} and {see attic}.[^n] Again.[^n]

    [^n]: A note with a [link](https://marlow.example/a?b=1&c=2) and $x^2$.

    ![A room](room.svg){#fig-room}

    Caption: A room.

    $$ h = \\frac{a}{b} $$
    Label: eq

    ## The cellar {#cellar}

    | a | b |
    |---|--:|
    | x | 1.5 |
    | y | 12 |

    Caption: Numbers.
    Label: tab

    - one
      - deeper
    - two

      further

    3. three
    4. four

    Between.

    1. one again

    ::: remark A box
    With words.
    :::

    {appendix}

    # The attic {#attic}

    ## Beams

    {references}
"""
SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="200" height="100"><rect width="200" height="100" fill="#eef"/></svg>'


class Documents(FolderCase):
    def pressed(self, text: str = PAGE):
        self.write("room.svg", SVG)
        page = self.write("page.md", text)
        self.warnings = press(page, ["docx"]).warnings
        return page.with_suffix(".docx")

    def test_everything_is_valid_leads_somewhere_and_is_the_same_twice(self) -> None:
        page = self.write("everything.md", EVERYTHING.read_bytes())
        press(page, ["docx"])
        document = page.with_suffix(".docx")
        first = document.read_bytes()
        document.unlink()
        press(page, ["docx"])
        self.assertEqual(document.read_bytes(), first)
        self.assertEqual((invalid(document), loose_ends(document)), ([], []))
        printed = shown(document)
        self.assertNotIn("¿", printed, "a sign with nothing beside it, as an office program shows it")
        for _, said in styles(document):
            for word in re.findall(r"[A-Za-z]{3,}", said):
                self.assertIn(together(word), printed)

    def test_what_counts_counts_by_itself_and_pointers_follow(self) -> None:
        document = self.pressed()
        self.assertEqual((invalid(document), loose_ends(document), self.warnings), ([], [], ()))
        with zipfile.ZipFile(document) as archive:
            body = archive.read("word/document.xml").decode()
        codes = re.findall(r"<w:instrText[^>]*> ([^<]*?) </w:instrText>", body)
        for code in (
            "SEQ Figure \\* ARABIC",
            "SEQ Table \\* ARABIC",
            "SEQ Equation \\* ARABIC",
            "REF ref_fig-room \\h",
        ):
            self.assertIn(
                code.replace("-", "_"), [re.sub(r"_[0-9a-f]{8}\b", "", one).replace("-", "_") for one in codes]
            )
        self.assertIn("REF to_cellar \\r \\h", codes)
        self.assertIn("NOTEREF note_1 \\f \\h", codes)
        self.assertIn('TOC \\o "1-3" \\h \\z \\u', [code.replace("&quot;", '"') for code in codes])
        sentence = next(said for _, said in styles(document) if said.startswith("It is"))
        wanted = "It is Figure 1, 1, Table 1, Equation 1, Section 1.1 and Appendix A."
        self.assertEqual(sentence.replace("\u00a0", " ").split(" Again")[0], wanted)
        self.assertNotRegex("".join(said for style, said in styles(document) if style.startswith("Heading")), r"\d")

    def test_headings_and_lists_are_those_of_the_program(self) -> None:
        document = self.pressed()
        found = [(style, said) for style, said in styles(document) if style.startswith(("Heading", "List"))]
        self.assertEqual(
            found,
            [
                ("Heading1", "Rooms"), ("Heading2", "The cellar"), ("ListBullet", "one"), ("ListBullet", "deeper"),
                ("ListBullet", "two"), ("ListContinue", "further"), ("ListNumber", "three"), ("ListNumber", "four"),
                ("ListNumber", "one again"), ("Heading1", "The attic"), ("Heading2", "Beams"),
            ],
        )  # fmt: skip
        numbers = {
            words(one): [
                (each.find(f"{W}ilvl").get(f"{W}val"), each.find(f"{W}numId").get(f"{W}val"))
                for each in one.iter(f"{W}numPr")
            ]
            for one in part(document).iter(f"{W}p")
        }
        self.assertEqual(numbers["deeper"][0][0], "1")
        self.assertEqual(numbers["three"], numbers["four"])
        self.assertNotEqual(numbers["four"], numbers["one again"])
        starts = {
            one.get(f"{W}numId"): [each.get(f"{W}val") for each in one.iter(f"{W}startOverride")]
            for one in part(document, "word/numbering.xml").iter(f"{W}num")
        }
        self.assertEqual((starts[numbers["three"][0][1]], starts[numbers["one again"][0][1]]), (["3"], ["1"]))
        self.assertEqual(numbers["Rooms"], [], "its style counts it")
        self.assertNotEqual(numbers["The attic"], [])

    def test_a_figure_is_vectors_with_dots_beside_at_its_size_and_with_words(self) -> None:
        document = self.pressed()
        drawing = next(part(document).iter("{*}inline"))
        self.assertEqual(drawing.find("{*}extent").get("cx"), str(round(200 / 96 * 2.54 * 360_000)))
        self.assertEqual(drawing.find("{*}docPr").get("descr"), "A room")
        self.assertEqual(sorted(name.rpartition(".")[2] for name in parts(document) if "media" in name), ["png", "svg"])
        with zipfile.ZipFile(document) as archive:
            dots = next(archive.read(name) for name in archive.namelist() if name.endswith(".png"))
        self.assertEqual(int.from_bytes(dots[16:20], "big"), 417, "200 dots an inch")

    def test_a_wide_table_has_a_sheet_on_its_side_and_two_columns_are_two(self) -> None:
        wide = (
            "| "
            + " | ".join(f"a long head {n}" for n in range(14))
            + " |\n"
            + "|---" * 14
            + "|\n"
            + "| some words " * 14
            + "|\n"
        )
        document = self.pressed(f"Before.\n\n{wide}\nCaption: Wide.\n\nAfter.\n")
        sizes = [one.get(f"{W}orient") for one in part(document).iter(f"{W}pgSz")]
        self.assertEqual(sizes, [None, "landscape", None])
        self.assertEqual(invalid(document), [])
        document = self.pressed(
            f"---\nstationery: journal\ntitle: Two\n---\n\nBefore.\n\n{wide}\nCaption: Wide.\n\nAfter.\n"
        )
        columns = [one.get(f"{W}num") for one in part(document).iter(f"{W}cols")]
        self.assertEqual(columns, ["1", "2", "1", "2"])
        self.assertEqual(invalid(document), [])

    def test_a_manuscript_has_its_lines_numbered_and_the_title_alone(self) -> None:
        document = self.pressed(PAGE.replace("title:", "stationery: manuscript\n    title:"))
        self.assertEqual(len(list(part(document).iter(f"{W}lnNumType"))), 1)
        breaks = [words(one.getparent().getparent()) for one in part(document).iter(f"{W}pageBreakBefore")]
        self.assertEqual(breaks, ["Abstract", "1\u2003Rooms"])

    def test_notes_stand_at_the_end_where_that_is_asked(self) -> None:
        text = PAGE.replace("title:", "press: {docx: {notes: end, contents: yes}}\n    title:")
        document = self.pressed(text)
        self.assertIn("word/endnotes.xml", parts(document))
        self.assertNotIn("word/footnotes.xml", parts(document))
        self.assertEqual((invalid(document), loose_ends(document)), ([], []))

    def test_letters_of_a_page_that_runs_from_right_to_left_do_so(self) -> None:
        document = self.pressed("---\nlanguage: he\n---\n\n# שלום\n\nשלום Python 3.\n")
        directions = [
            one.find(f"{W}rPr/{W}rtl") is not None for one in part(document).iter(f"{W}r") if words(one).strip()
        ]
        self.assertEqual(directions, [True, True, False])
        self.assertTrue(list(part(document).iter(f"{W}bidi")))
        self.assertEqual(invalid(document), [])

    def test_tabs_and_letters_that_no_xml_may_hold_do_no_harm(self) -> None:
        document = self.pressed(
            '```python run show=output\nprint("a\\tb\\x07c\\ud800".encode("utf-8", "replace").decode())\n```\n'
        )
        self.assertEqual(invalid(document), [])

    def test_pictures_of_every_kind_are_shown_and_damaged_ones_told(self) -> None:
        for kind in ("jpeg", "gif", "webp", "png"):
            Image.new("RGB", (30, 15), (90, 120, 200)).save(self.folder / f"a.{kind}")
        self.write("bad.gif", b"GIF89a")
        text = "".join(f"![{kind}](a.{kind})\n\nCaption: {kind}.\n\n" for kind in ("jpeg", "gif", "webp", "png"))
        document = self.pressed(f"{text}![Gone](bad.gif)\n\nCaption: Gone.\n\nAmong ![x](a.jpeg) words.\n")
        self.assertEqual(invalid(document), [])
        shown = sorted(name.rpartition(".")[2] for name in parts(document) if "media" in name)
        self.assertEqual(shown, ["gif", "jpeg", "png", "png"])
        self.assertEqual([problem.span.line for problem in self.warnings], [17])
        self.assertIn(("Figure", "[Gone]"), styles(document))

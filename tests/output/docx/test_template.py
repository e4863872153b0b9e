"""Templates: their styles by name, cover, heads and margins kept; what cannot be used is told."""

import re
import zipfile
from pathlib import Path

from tests.output.docx.documents import invalid, loose_ends, part, shown, styles, together
from tests.output.docx.test_document import PAGE, SVG
from tests.support import FolderCase
from wornpage.output.docx.xml import NAMESPACES
from wornpage.output.ooxml.xml import HEAD, R
from wornpage.press import press
from wornpage.tree.problem import PageError

_PACKAGE = "http://schemas.openxmlformats.org/package/2006/"
_MAIN = "application/vnd.openxmlformats-officedocument.wordprocessingml."
SECTION = (
    '<w:sectPr><w:headerReference w:type="default" r:id="rId7"/><w:pgSz w:w="12240" w:h="15840"/><w:pgMar w:top="1440" w:right="2000" '
    'w:bottom="1440" w:left="2000" w:header="720" w:footer="720" w:gutter="0"/><w:titlePg/></w:sectPr>'
)
COVER = (
    '<w:sdt><w:sdtPr><w:tag w:val="worn:title"/><w:id w:val="5"/><w:showingPlcHdr/><w:text/></w:sdtPr><w:sdtContent><w:p><w:r>'
    "<w:t>[Titel]</w:t></w:r><w:r><w:t>hier</w:t></w:r></w:p></w:sdtContent></w:sdt>"
    '<w:p><w:bookmarkStart w:id="20000" w:name="to_cellar"/><w:bookmarkEnd w:id="20000"/><w:r><w:t>Marlow Street, a cover</w:t></w:r></w:p>'
    '<w:p><w:r><w:br w:type="page"/></w:r></w:p>'
)
STYLES = (
    '<w:style w:type="paragraph" w:default="1" w:styleId="Standard"><w:name w:val="Normal"/></w:style>'
    '<w:style w:type="paragraph" w:styleId="berschrift1"><w:name w:val="heading 1"/><w:basedOn w:val="Standard"/><w:pPr><w:keepNext/>'
    '<w:outlineLvl w:val="0"/></w:pPr></w:style>'
    '<w:style w:type="paragraph" w:styleId="Textkrper"><w:name w:val="Body Text"/><w:basedOn w:val="Standard"/></w:style>'
    '<w:style w:type="paragraph" w:customStyle="1" w:styleId="Quelltext"><w:name w:val="Quelltext"/><w:basedOn w:val="Standard"/></w:style>'
    '<w:style w:type="character" w:customStyle="1" w:styleId="Caption"><w:name w:val="Something Else"/></w:style>'
)  # fmt: skip


def template(path: Path, body: str = COVER, main: str = "document.main", styled: str = STYLES) -> Path:
    """A document as a word processor in another language keeps it, its main part where it is not usually."""
    kinds = {"inhalt/haupt.xml": main, "inhalt/stile.xml": "styles", "inhalt/kopf.xml": "header"}
    types = "".join(f'<Override PartName="/{name}" ContentType="{_MAIN}{kind}+xml"/>' for name, kind in kinds.items())
    about = f'<Relationships xmlns="{_PACKAGE}relationships">'
    made = {
        "[Content_Types].xml": f'{HEAD}<Types xmlns="{_PACKAGE}content-types"><Default Extension="rels" ContentType="application/vnd.'
        f'openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/>{types}</Types>',
        "_rels/.rels": f'{HEAD}{about}<Relationship Id="rId1" Type="{R}/officeDocument" Target="/inhalt/haupt.xml"/></Relationships>',
        "inhalt/haupt.xml": f"{HEAD}<w:document {NAMESPACES}><w:body>{body}{SECTION}</w:body></w:document>",
        "inhalt/_rels/haupt.xml.rels": f'{HEAD}{about}<Relationship Id="rId1" Type="{R}/styles" Target="stile.xml"/>'
        f'<Relationship Id="rId7" Type="{R}/header" Target="kopf.xml"/></Relationships>',
        "inhalt/stile.xml": f"{HEAD}<w:styles {NAMESPACES}>{styled}</w:styles>",
        "inhalt/kopf.xml": f"{HEAD}<w:hdr {NAMESPACES}><w:p><w:r><w:t>Head of the house</w:t></w:r></w:p></w:hdr>",
    }
    with zipfile.ZipFile(path, "w") as archive:
        for name, text in made.items():
            archive.writestr(name, text)
    return path


class Templates(FolderCase):
    def pressed(self, options: str = "template: office.docx", text: str = PAGE) -> Path:
        self.write("room.svg", SVG)
        page = self.write("page.md", text.replace("title:", f"press: {{docx: {{{options}}}}}\n    title:"))
        press(page, ["docx"])
        return page.with_suffix(".docx")

    def fault(self, options: str = "template: office.docx") -> str:
        with self.assertRaises(PageError) as caught:
            self.pressed(options)
        return str(caught.exception)

    def test_its_styles_cover_head_and_margins_are_kept_and_the_rest_is_added(self) -> None:
        template(self.folder / "office.docx")
        document = self.pressed()
        self.assertEqual(invalid(document), [])
        with zipfile.ZipFile(document) as archive, zipfile.ZipFile(self.folder / "office.docx") as office:
            self.assertEqual(archive.read("inhalt/kopf.xml"), office.read("inhalt/kopf.xml"))
            body = archive.read("inhalt/haupt.xml").decode()
            styled = archive.read("inhalt/stile.xml").decode()
        self.assertLess(body.index("Marlow Street, a cover"), body.index("Rooms"))
        self.assertIn("The damp room", body)
        self.assertNotIn("Titel", body)
        used = set(re.findall(r'w:pStyle w:val="([^"]*)"', body))
        self.assertLessEqual({"berschrift1", "Textkrper", "CaptionW"}, used)
        self.assertNotIn("Title", used, "the cover has it")
        own = re.search(r'<w:style [^>]*w:styleId="CaptionW".*?</w:style>', styled)
        self.assertNotIn("rFonts", own[0] if own else "rFonts", "letters follow those of the template")
        self.assertIn('w:pgSz w:w="12240"', body)
        self.assertEqual(body.count("headerReference"), 1)
        printed = shown(document)
        for words in ("Headofthehouse", "MarlowStreet,acover", "1Rooms", "1.1Thecellar"):
            self.assertIn(together(words), printed)

    def test_a_style_can_be_called_otherwise(self) -> None:
        self.write("house/stationery.toml", 'name = "house"\nbase = "report"\n')
        template(self.folder / "house" / "document.docx")
        self.write("house/document.toml", '[styles]\n"code block" = "Quelltext"\n')
        page = self.write("page.md", "---\nstationery: house\n---\n\n```\nx\n```\n")
        press(page, ["docx"])
        with zipfile.ZipFile(page.with_suffix(".docx")) as archive:
            self.assertIn('w:pStyle w:val="Quelltext"', archive.read("inhalt/haupt.xml").decode())
        self.write("house/document.toml", '[styles]\n"code block" = "Quelltxt"\n')
        with self.assertRaises(PageError) as caught:
            press(page, ["docx"])
        self.assertIn("quelltext", str(caught.exception))

    def test_our_own_document_and_one_that_an_office_program_saved_are_templates(self) -> None:
        first = self.pressed("contents: yes")
        first.rename(self.folder / "office.docx")
        document = self.pressed()
        self.assertEqual((invalid(document), loose_ends(document)), ([], []))
        self.assertEqual([said for style, said in styles(document) if style == "Heading1"].count("Rooms"), 2)
        self.assertEqual(len(list(part(document, "word/footnotes.xml"))), 4)

    def test_a_place_for_the_text_gives_way_to_it(self) -> None:
        place = '<w:sdt><w:sdtPr><w:tag w:val="worn:body"/></w:sdtPr><w:sdtContent><w:p><w:r><w:t>Here</w:t></w:r></w:p></w:sdtContent></w:sdt>'
        template(self.folder / "office.dotx", f"{place}<w:p><w:r><w:t>The end of it</w:t></w:r></w:p>", "template.main")
        document = self.pressed("template: office.dotx")
        self.assertEqual(invalid(document), [])
        body = zipfile.ZipFile(document).read("inhalt/haupt.xml").decode()
        self.assertNotIn(">Here<", body)
        self.assertLess(body.index("Beams"), body.index("The end of it"))

    def test_what_cannot_be_used_is_told(self) -> None:
        self.assertIn("office.docx", self.fault())
        self.write("office.docx", b"no archive")
        self.assertIn("cannot be read", self.fault())
        template(self.folder / "office.docx", "<w:p><w:ins w:id='1'><w:r><w:t>x</w:t></w:r></w:ins></w:p>")
        self.assertIn("tracked changes", self.fault())
        template(self.folder / "office.docx", main="document.macroEnabled.main")
        self.assertIn("macros", self.fault())
        template(self.folder / "office.docx", "<w:p><w:r></w:p>")
        self.assertIn("damaged", self.fault())


class Looks(FolderCase):
    def test_a_fault_in_the_looks_is_told_with_its_line(self) -> None:
        self.write("house/stationery.toml", 'name = "house"\nbase = "report"\n')
        page = self.write("page.md", "---\nstationery: house\n---\n\nWords.\n")
        for text, line, words in (
            ("[letters]\nsize = 'x'\n", 2, "size"), ("[letters]\n\nsiez = 3\n", 3, "size"), ("[colours]\nink = 'black'\n", 2, "six digits"),
            ("[lines\n", 1, "TOML"),
        ):  # fmt: skip
            self.write("house/document.toml", text)
            with self.assertRaises(PageError) as caught:
                press(page, ["docx"])
            problem = caught.exception.problems[0]
            self.assertEqual((problem.span.file, problem.span.line), ("house/document.toml", line))
            self.assertIn(words, f"{problem.what} {problem.hint}")
        self.write("house/document.toml", "[letters]\nsize = 14\n")
        press(page, ["docx"])
        self.assertIn('w:sz w:val="28"', zipfile.ZipFile(page.with_suffix(".docx")).read("word/styles.xml").decode())

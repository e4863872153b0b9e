"""Presentations: valid, native, in the template's placeholders, the same bytes twice, every word there in an office program."""

import io
import re
import zipfile
from pathlib import Path

from lxml import etree

from tests.output.docx.documents import invalid, shown, together
from tests.support import FolderCase
from wornpage.output.deck.model import SHAPES
from wornpage.output.ooxml.package import packed
from wornpage.output.pptx.own import own_parts
from wornpage.press import press

PAGE = """
    ---
    title: A talk
    subtitle: About *paper*
    authors: [{name: Ada Lund, affiliation: Quayside branch}]
    press: {slides: {chunks: {show: all}, footer: Foot words}}
    ---

    # Part

    ## Text {#text}

    - one **bold** $x^2$
      - deeper `code`
    - two [out](https://marlow.example/a?b=1&c=2), [in](#later)

    {steps=yes}

    ::: speaker
    Said aloud.
    :::

    ## Columns

    :::: side-by-side
    left words

    | a | b |
    |---|--:|
    | x & y | 1.5 |
    ::::

    ## Later {background="#123456"}

    1. first
    2. second

    ```python run #a pick-out="1 then 2"
    x = 1
    print(x < 2)
    ```

    ## Things {#later}

    ```python run #plot show=output width=12cm height=6cm
    import matplotlib.pyplot as plt
    plt.plot([1, 2])
    ```
    Caption: A line, "quoted".

    $$ \\frac{a}{b} $$
    Label: eq

    See {see plot} and {see eq}.[^n]

    [^n]: A note.

    ::: step
    ::: note Boxed
    In a box.
    :::
    :::
    """
P = "{http://schemas.openxmlformats.org/presentationml/2006/main}"
A = "{http://schemas.openxmlformats.org/drawingml/2006/main}"


class Presentations(FolderCase):
    def pressed(self, text: str = PAGE) -> Path:
        press(self.write("talk.md", text), ["pptx"])
        return self.folder / "talk.pptx"

    def slides(self, path: Path) -> list[etree._Element]:
        with zipfile.ZipFile(path) as archive:
            names = [name for name in archive.namelist() if re.fullmatch(r"ppt/slides/slide\d+\.xml", name)]
            return [etree.fromstring(archive.read(f"ppt/slides/slide{at}.xml")) for at in range(1, len(names) + 1)]

    def words(self, element: etree._Element) -> str:
        return "".join(one.text or "" for one in element.iter(f"{A}t"))

    def test_it_is_valid_whole_and_the_same_again(self) -> None:
        path = self.pressed()
        self.assertEqual(invalid(path), [])
        self.assertEqual(loose_ends(path), [])
        before = path.read_bytes()
        self.pressed(PAGE.replace("A talk", "B talk"))
        self.assertEqual(self.pressed().read_bytes(), before)
        printed = shown(path)
        for words in (
            "A talk",
            "About paper",
            "Ada Lund",
            "one bold",
            "deeper code",
            "x & y",
            "left words",
            "A note",
            "In a box",
            "Foot words",
            "print(x < 2)",
            "True",
            "Figure 1",
            'A line, "quoted".',
        ):
            self.assertIn(together(words), printed)

    def test_text_stands_in_placeholders_with_levels_and_comes_in_steps(self) -> None:
        slides = self.slides(self.pressed())
        self.assertEqual(len(slides), 7, "one more for the second turn of the code")
        text = slides[2]
        for fallback in list(text.iter("{http://schemas.openxmlformats.org/markup-compatibility/2006}Fallback")):
            fallback.clear()
        holders = [(one.get("type", "obj"), one.get("idx")) for one in text.iter(f"{P}ph")]
        self.assertEqual(holders, [("title", None), ("obj", "1"), ("ftr", "11"), ("sldNum", "12")])
        levels = [int(one.get("lvl", "0")) for one in text.iter(f"{A}pPr")][1:4]
        self.assertEqual(levels, [0, 1, 0])
        ranges = [(one.get("st"), one.get("end")) for one in text.iter(f"{P}pRg")]
        self.assertEqual(ranges, [("0", "0"), ("1", "1"), ("2", "2")])
        clicks = [one for one in text.iter(f"{P}cTn") if one.get("nodeType") == "clickEffect"]
        self.assertEqual(len(clicks), 2, "what is deeper comes with its item")
        two = [one.get("idx") for one in slides[3].iter(f"{P}ph") if one.get("idx") in {"1", "2"}]
        self.assertEqual(two, ["1"], "words in the left place; the table stands where the right one is")
        self.assertEqual(len(list(slides[3].iter(f"{A}tbl"))), 1)
        self.assertIsNotNone(slides[4].find(f"{P}clrMapOvr/{A}overrideClrMapping"))
        self.assertEqual(len([one for one in slides[6].iter(f"{P}cTn") if one.get("nodeType") == "clickEffect"]), 1)

    def test_notes_links_pictures_and_formulas_are_native(self) -> None:
        path = self.pressed()
        with zipfile.ZipFile(path) as archive:
            notes = archive.read("ppt/notesSlides/notesSlide3.xml").decode()
            leads = archive.read("ppt/slides/_rels/slide3.xml.rels").decode()
            last = archive.read("ppt/slides/slide7.xml").decode()
            kinds = {name.rpartition(".")[2] for name in archive.namelist() if "/media/" in name}
        self.assertIn("Said aloud.", notes)
        self.assertIn("https://marlow.example/a?b=1&amp;c=2", leads)
        self.assertIn('Target="slide7.xml"', leads)
        self.assertEqual(kinds, {"png", "svg"})
        self.assertIn('descr="A line, &quot;quoted&quot;."', last)
        self.assertIn("<m:f>", last)
        self.assertIn("<mc:Fallback>", last)
        self.assertNotIn("Said aloud", self.words(self.slides(path)[2]))


class Templates(FolderCase):
    """Somebody's template: found by kind or by name, its slides dropped, all else kept."""

    def template(self, **changes: str) -> Path:
        """Our own, made another's: with a slide, a logo, other names."""
        parts = own_parts(SHAPES["16:9"])
        main = parts["ppt/presentation.xml"].decode()
        parts["ppt/presentation.xml"] = main.replace(
            "</p:sldMasterIdLst>", '</p:sldMasterIdLst><p:sldIdLst><p:sldId id="256" r:id="rId9"/></p:sldIdLst>'
        ).encode()
        relations = parts["ppt/_rels/presentation.xml.rels"].decode()
        kind = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
        parts["ppt/_rels/presentation.xml.rels"] = relations.replace(
            "</Relationships>",
            f'<Relationship Id="rId9" Type="{kind}/slide" Target="slides/slide1.xml"/></Relationships>',
        ).encode()
        layout = parts["ppt/slideLayouts/slideLayout5.xml"]
        parts["ppt/slides/slide1.xml"] = (
            layout.replace(b"sldLayout", b"sld")
            .replace(b' type="titleOnly" preserve="1"', b"")
            .replace(b"</p:sld>", b"</p:sld>")
        )
        parts["ppt/slides/_rels/slide1.xml.rels"] = (
            parts["ppt/slideLayouts/_rels/slideLayout5.xml.rels"]
            .replace(b"slideMaster", b"slideLayout")
            .replace(b"../slideLayouts/slideLayout1", b"../slideLayouts/slideLayout5")
        )
        types = parts["[Content_Types].xml"].decode()
        parts["[Content_Types].xml"] = (
            types.replace(
                "</Types>",
                '<Override PartName="/ppt/slides/slide1.xml" ContentType="application/vnd.openxmlformats-officedocument.presentationml.slide+xml"/></Types>',
            )
            .replace("presentation.main+xml", "template.main+xml")
            .encode()
        )
        for name, data in parts.items():
            text = data.decode()
            for old, new in changes.items():
                text = text.replace(old.replace("_", " "), new)
            parts[name] = text.encode()
        return self.write("office.potx", packed(parts))

    def test_its_layouts_are_used_and_its_slides_are_not(self) -> None:
        self.template(Calibri="Office Sans")
        page = PAGE.replace("press: {", "press: {pptx: {template: office.potx}, ")
        press(self.write("talk.md", page), ["pptx"])
        path = self.folder / "talk.pptx"
        self.assertEqual(invalid(path), [])
        self.assertEqual(loose_ends(path), [])
        with zipfile.ZipFile(path) as archive:
            names = archive.namelist()
            self.assertIn(b"Office Sans", archive.read("ppt/theme/theme1.xml"))
            self.assertIn(b"presentation.main+xml", archive.read("[Content_Types].xml"))
        self.assertEqual(sum(bool(re.fullmatch(r"ppt/slides/slide\d+\.xml", name)) for name in names), 7)

    def test_layouts_are_found_by_name_where_their_kind_is_not_said(self) -> None:
        self.template(
            **{
                'type="obj"': "",
                "Title_and_text": "Inhalt",
                'type="secHead"': "",
                "Section": "Trenner",
                'type="twoObj"': "",
                "Two_columns": "Odd name",
            }
        )
        page = PAGE.replace("press: {", "press: {pptx: {template: office.potx, columns-layout: odd name}, ")
        press(self.write("talk.md", page), ["pptx"])
        self.assertEqual(invalid(self.folder / "talk.pptx"), [])
        with zipfile.ZipFile(self.folder / "talk.pptx") as archive:
            leads = [archive.read(f"ppt/slides/_rels/slide{at}.xml.rels").decode() for at in (2, 3, 4)]
        self.assertEqual([re.findall(r"slideLayout(\d)", one)[0] for one in leads], ["2", "3", "4"])

    def test_a_template_in_a_stationery(self) -> None:
        self.write("house/stationery.toml", 'base = "report"\ntext-layout = "Odd"\n')
        self.template(**{"Calibri": "House Sans", "Title_and_text": "Odd", 'type="obj"': ""}).rename(
            self.folder / "house/deck.pptx"
        )
        press(self.write("talk.md", "---\nstationery: house\n---\n\n# A\n\nWords.\n"), ["pptx"])
        with zipfile.ZipFile(self.folder / "talk.pptx") as archive:
            self.assertIn(b"House Sans", archive.read("ppt/theme/theme1.xml"))
            self.assertIn(b"slideLayout3", archive.read("ppt/slides/_rels/slide1.xml.rels"))

    def test_a_template_that_leaves_sizes_to_others_taste_is_told_them(self) -> None:
        self.template(**{f'<a:defRPr_sz="{29 * 75}">': "<a:defRPr>", 'type="twoObj"': 'type="obj"'})
        drawn = '{"slides": {"a": [{"t": "pen", "c": "#000000", "w": 4, "p": [1, 2, 0.5]}]}}'
        self.write("d.json", drawn)
        setting = "press: {pptx: {template: office.potx}, slides: {drawn: d.json}}"
        pressing = press(self.write("talk.md", f"---\n{setting}\n---\n\n# A\n\n- words\n"), ["pptx"])
        self.assertIn("is not in the presentation", str(pressing.warnings[0]))
        with zipfile.ZipFile(self.folder / "talk.pptx") as archive:
            self.assertIn(f'sz="{29 * 75}"'.encode(), archive.read("ppt/slides/slide1.xml"))

    def test_what_is_no_template_is_told(self) -> None:
        self.write("no.pptx", "words")
        held = io.BytesIO()
        with zipfile.ZipFile(held, "w") as archive:
            archive.writestr("a.txt", "x")
        self.write("other.pptx", held.getvalue())
        self.template()
        for setting, what in (
            ("template: none.pptx", "is not there"), ("template: no.pptx", "cannot be read"), ("template: other.pptx", "is no presentation"),
            ("template: office.potx, text-layout: Tilte and text", "Did you mean 'Title and text'"),
        ):  # fmt: skip
            with self.subTest(setting):
                told = self.faults(f"---\npress: {{pptx: {{{setting}}}}}\n---\n\n# A\n", ("pptx",))
                self.assertIn(what, str(told[0]))

    def test_its_parts_may_lie_at_the_root(self) -> None:
        path = self.template()
        with zipfile.ZipFile(path) as archive:
            parts = {name: archive.read(name) for name in archive.namelist()}
        leads = (b'"/ppt/', b'"ppt/')
        rooted = {}
        for name, data in parts.items():
            led = name.endswith(".rels") or name == "[Content_Types].xml"
            rooted[name.removeprefix("ppt/")] = data.replace(leads[0], b'"/').replace(leads[1], b'"') if led else data
        path.write_bytes(packed(rooted))
        press(self.write("talk.md", PAGE.replace("press: {", "press: {pptx: {template: office.potx}, ")), ["pptx"])
        made = self.folder / "talk.pptx"
        self.assertEqual(invalid(made), [])
        self.assertEqual(loose_ends(made), [])
        with zipfile.ZipFile(made) as archive:
            self.assertIn("presentation.xml", archive.namelist())
            self.assertFalse([name for name in archive.namelist() if "ppt/slideLayouts" in name])


def loose_ends(path: Path) -> list[str]:
    """What leads nowhere, or is there twice."""
    found: list[str] = []
    with zipfile.ZipFile(path) as archive:
        names = archive.namelist()
        types = archive.read("[Content_Types].xml").decode()
        for name in names:
            if name.endswith(".rels"):
                folder = Path(name).parent.parent
                for target, mode in re.findall(r'Target="([^"]*)"( TargetMode)?', archive.read(name).decode()):
                    whole = Path(target[1:]) if target.startswith("/") else folder / target
                    parts: list[str] = []
                    for part in whole.parts:
                        parts = parts[:-1] if part == ".." else [*parts, part]
                    found += [] if mode or "/".join(parts) in names else [f"{name} leads to {target}"]
            elif re.fullmatch(r"ppt/slides/slide\d+\.xml", name):
                text = archive.read(name).decode()
                leads = archive.read(f"ppt/slides/_rels/{Path(name).name}.rels").decode()
                ids = set(re.findall(r'r:(?:id|embed)="([^"]*)"', text))
                found += [f"{name} has no {one}" for one in ids if f'Id="{one}"' not in leads]
                plain = re.sub(r"<mc:Fallback>.*?</mc:Fallback>", "", text)
                numbers = re.findall(r'<p:cNvPr id="(\d+)"', plain)
                found += [f"{name} has {one} twice" for one in set(numbers) if numbers.count(one) > 1]
                asked = set(re.findall(r'spid="(\d+)"', text))
                found += [f"{name} moves {one}" for one in asked if one not in numbers]
    found += [f"no part {one}" for one in re.findall(r'PartName="/([^"]*)"', types) if one not in names]
    return found + [f"{one} twice" for one in set(names) if names.count(one) > 1]

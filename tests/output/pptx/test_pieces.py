"""The pieces of a presentation: runs, paragraphs, tables, effects, layouts."""

import re
import unittest
import zipfile
from io import BytesIO

from lxml import etree

from wornpage.compose.language import language_of
from wornpage.compose.mathematics import read_formula
from wornpage.output.deck.measuring import Measure
from wornpage.output.deck.model import SHAPES
from wornpage.output.ooxml.package import Relations, packed
from wornpage.output.pptx.drawingml import NAMESPACES, Box, Face, Lines, numbered
from wornpage.output.pptx.own import own_parts
from wornpage.output.pptx.tables import table_xml
from wornpage.output.pptx.template import Template
from wornpage.output.pptx.text import Paragraph, Text, is_text
from wornpage.output.pptx.timing import Target, timing
from wornpage.tree import nodes as n
from wornpage.tree.problem import PageError, Problem
from wornpage.tree.span import Span

SPAN = Span("p.md", 1)


def words(text: str) -> n.Inlines:
    return (n.Text(SPAN, text),)


def xml(text: str) -> etree._Element:
    """A piece as an element; fails if it is not whole."""
    return etree.fromstring(f"<x {NAMESPACES}>{text}</x>")


class Writing(unittest.TestCase):
    def setUp(self) -> None:
        self.problems: list[Problem] = []
        self.relations = Relations("r")

    def text(self, held: bool = False, language: str = "en") -> Text:
        slides = {"plot": "slide3.xml"}
        return Text(
            language,
            language_of(language),
            self.relations,
            lambda label: slides.get(label, ""),
            held,
            29.0,
            self.problems,
        )

    def run_of(self, *inlines: n.Inline) -> str:
        made = self.text().runs(inlines, Face(size=20))
        xml(made)
        return made

    def test_every_kind_of_running_text(self) -> None:
        for node, expected in (
            (n.Text(SPAN, "a<b>&\x02"), "a&lt;b&gt;&amp;\ufffd"),
            (n.Strong(SPAN, words("x")), 'b="1"'),
            (n.Emphasis(SPAN, (n.Emphasis(SPAN, words("x")),)), "<a:t>x"),
            (n.Strike(SPAN, words("x")), "sngStrike"),
            (n.Raised(SPAN, words("x"), below=True), 'baseline="-25000"'),
            (n.SmallCaps(SPAN, words("x")), 'cap="small"'),
            (n.Superscript(SPAN, "*"), 'baseline="30000"'),
            (n.Code(SPAN, "x"), 'typeface="Consolas"'),
            (n.HardBreak(SPAN), "<a:br/>"),
            (n.SoftBreak(SPAN), "<a:t> </a:t>"),
            (n.RawHtmlInline(SPAN, "<br>"), "<a:br/>"),
            (n.Answered(SPAN, words("42"), "{= x}"), "42"),
            (n.Anchor(SPAN, "a"), ""),
        ):
            with self.subTest(type(node).__name__):
                self.assertIn(expected, self.run_of(node))
        self.assertEqual(self.run_of(n.RawHtmlInline(SPAN, "<kbd>")), "")
        self.assertIn("left out of the presentation", str(self.problems[0]))

    def test_links_lead_to_slides_and_out_and_nowhere_else(self) -> None:
        self.assertIn(
            'action="ppaction://hlinksldjump"', self.run_of(n.Link(SPAN, "", "", words("Figure 1"), to="plot"))
        )
        self.assertIn("hlinkClick", self.run_of(n.Link(SPAN, "https://marlow.example/ä b", "", words("out"))))
        for link in (n.Link(SPAN, "", "", words("gone"), to="none"), n.Link(SPAN, "javascript:x", "", words("bad"))):
            self.assertNotIn("hlinkClick", self.run_of(link))
        self.assertIn("https://marlow.example/%C3%A4%20b", self.relations.xml())
        self.assertIn('Target="slide3.xml"', self.relations.xml())

    def test_formulas_and_what_stands_for_them(self) -> None:
        math = n.Math(SPAN, read_formula(r"\frac{1}{2}"), "one half")
        alone = self.text().paragraph((math,), Lines(), Face())
        among = self.text().paragraph((*words("is "), math), Lines(), Face())
        self.assertEqual([alone.is_formula, among.is_formula], [True, False])
        self.assertIn("<m:f>", among.xml)
        self.assertIn("1/2", among.plain)
        self.assertNotIn("a14", among.plain)
        xml(among.xml + among.plain)

    def test_lists_have_the_levels_of_their_place_or_marks_of_their_own(self) -> None:
        deeper = n.List(SPAN, (n.Item(SPAN, (n.Paragraph(SPAN, words("b"), True),)),), ordered=True, start=4)
        tasks = n.Item(SPAN, (n.Paragraph(SPAN, words("c"), True),), done=True)
        it = n.List(SPAN, (n.Item(SPAN, (n.Paragraph(SPAN, words("a"), True), deeper), step=2), tasks), ordered=False)
        held, own = (self.text(held).blocks((it,)) for held in (True, False))
        self.assertEqual([one.step for one in held], [2, 2, 0])
        self.assertIn('lvl="1"', held[1].xml)
        self.assertIn('startAt="4"', held[1].xml)
        self.assertIn("☑ ", held[2].xml)
        self.assertIn('<a:buChar char="•"/>', own[0].xml)
        self.assertNotIn("buChar", held[0].xml)

    def test_words_that_run_to_the_left(self) -> None:
        made = self.text(language="ar").paragraph(words("كلمات"), Lines(), Face())
        self.assertIn('algn="r" rtl="1"', made.xml)

    def test_what_is_nothing_but_text(self) -> None:
        code = n.CodeBlock(SPAN, "", ())
        text = n.Paragraph(SPAN, words("x"))
        for block, is_so in (
            (text, True), (n.Quote(SPAN, (text,)), True), (n.Quote(SPAN, (code,)), False), (code, False), (n.Definitions(SPAN, ()), True),
            (n.List(SPAN, (n.Item(SPAN, (text, code)),), False), False), (n.Container(SPAN, "note", n.NO_ATTRIBUTES, (text,)), False),
        ):  # fmt: skip
            self.assertEqual(is_text(block), is_so)

    def test_tables_with_spans_groups_and_feet(self) -> None:
        heads = (
            (n.HeadCell(()), n.HeadCell(words("both"), 2)),
            tuple(n.HeadCell(words(one)) for one in ("k", "a", "b")),
        )
        rows = ((words("all"),), (words("x"), words("1"), words("2")), (words("sum"), words("1"), words("2")))
        table = n.TextTable(heads, ("left", "right", "right"), rows, kinds=("group", "", "foot"))
        made, width, height = table_xml(table, self.text(), Measure(SHAPES["16:9"], 1.0), 900.0, 22.0)
        root = xml(made)
        rows_of = [list(row) for row in root.iter("{*}tr")]
        self.assertEqual([len(row) for row in rows_of], [3, 3, 3, 3, 3], "as many cells as columns")
        self.assertEqual([cell.get("gridSpan") for cell in rows_of[0]], [None, "2", None])
        self.assertEqual([cell.get("hMerge") for cell in rows_of[2]], [None, "1", "1"])
        self.assertEqual(len(list(root.iter("{*}gridCol"))), 3)
        self.assertTrue(0 < width < 900 and height > 100)


class Steps(unittest.TestCase):
    def test_effects_of_shapes_and_paragraphs(self) -> None:
        self.assertEqual(timing({}), "")
        root = xml(timing({2: [Target(5)], 1: [Target(3, 0), Target(4)]}))
        effects = [(one.get("nodeType"), one.get("grpId")) for one in root.iter("{*}cTn") if one.get("presetID")]
        self.assertEqual(effects, [("clickEffect", "0"), ("withEffect", None), ("clickEffect", None)])
        self.assertEqual([one.get("spid") for one in root.iter("{*}spTgt")], ["3", "4", "5"])
        self.assertEqual([one.get("spid") for one in root.iter("{*}bldP")], ["3"])
        numbers = [one.get("id") for one in root.iter("{*}cTn")]
        self.assertEqual(len(numbers), len(set(numbers)))


class Layouts(unittest.TestCase):
    def test_our_own_in_both_shapes(self) -> None:
        for shape in SHAPES.values():
            template = Template(own_parts(shape), "own", "p.md", {})
            self.assertEqual(
                [one.kind for one in template.by_use.values()],
                ["title", "secHead", "obj", "twoObj", "titleOnly", "blank"],
            )
            self.assertEqual(template.sizes(shape), (shape.text, shape.title))
            measured = template.shape(shape)
            self.assertEqual((measured.width, measured.side, measured.inner), (shape.width, shape.side, shape.inner))
            room = measured.height - measured.top - measured.foot - measured.title * 1.15 - 20
            self.assertAlmostEqual(room, shape.height - shape.top - shape.foot - shape.title * 1.15 - 20, delta=1)
            left, right = template.by_use["columns"].texts
            assert left.box is not None and right.box is not None
            self.assertLess(left.box.x + left.box.width, right.box.x)

    def test_looks_in_sample_words_and_places_without_numbers(self) -> None:
        """As some office programs write templates: no styles, all contents unnumbered, layouts placed as on a cover."""
        parts = own_parts(SHAPES["16:9"])
        name = "ppt/slideMasters/slideMaster1.xml"
        master = etree.fromstring(parts[name])
        styles = master.find("{*}txStyles")
        assert styles is not None
        master.remove(styles)
        for shape in master.iter("{*}sp"):
            held = shape.find(".//{*}ph")
            if held is not None and held.get("type") in {"title", "body"}:
                for old in [*shape.iter("{*}lstStyle"), *shape.iter("{*}p")]:
                    old.getparent().remove(old)  # type: ignore[union-attr]
                letters = (
                    '<a:rPr sz="2400" b="1"><a:solidFill><a:srgbClr val="C0F0FF"/></a:solidFill><a:highlight/></a:rPr>'
                )
                sample = f'<a:p {NAMESPACES}><a:pPr algn="r"/><a:r>{letters}<a:t>Click</a:t></a:r></a:p>'
                body = shape.find("{*}txBody")
                assert body is not None
                body.append(etree.fromstring(sample))
        dark = '<p:bg {0}><p:bgPr><a:solidFill><a:srgbClr val="101030"/></a:solidFill><a:effectLst/></p:bgPr></p:bg>'
        tree, behind = master.find("{*}cSld"), master.find("{*}cSld/{*}bg")
        assert tree is not None and behind is not None
        tree.replace(behind, etree.fromstring(dark.format(NAMESPACES)))
        bare = {**parts, name: etree.tostring(master)}
        for part, data in parts.items():
            if "slideLayouts/slideLayout" in part and part.endswith(".xml"):
                bare[part] = re.sub(rb'(<p:ph(?: sz="half")?) idx="\d+"/>', rb"\1/>", data)
        template = Template(bare, "t.pptx", "p.md", {})
        made = etree.fromstring(template.parts[name])
        first = made.find("{*}txStyles/{*}bodyStyle/{*}lvl1pPr")
        assert first is not None
        self.assertEqual(first.get("algn"), "r")
        self.assertEqual([etree.QName(one).localname for one in first[-1]], ["solidFill"])
        self.assertEqual(template.ink, "C0F0FF")
        self.assertEqual(template.sizes(SHAPES["16:9"])[0], 2400 / 75)
        light = {**bare, name: bare[name].replace(b"101030", b"F8F8FF")}
        self.assertEqual(Template(light, "t.pptx", "p.md", {}).ink, "")  # nobody could read it
        left, right = template.by_use["columns"].texts
        assert left.box is not None and right.box is not None
        self.assertNotEqual(left.number, right.number)
        self.assertLess(left.box.x + left.box.width, right.box.x)

    def test_damaged_parts_are_told(self) -> None:
        parts = own_parts(SHAPES["16:9"])
        for name, data in (
            ("ppt/slideMasters/slideMaster1.xml", b"<"),
            ("ppt/presentation.xml", b"<a/>"),
            ("_rels/.rels", b"no"),
        ):
            with self.subTest(name), self.assertRaises(PageError) as caught:
                Template({**parts, name: data}, "t.pptx", "p.md", {})
            self.assertIn("the template t.pptx", str(caught.exception.problems[0]))
        without = {name: data for name, data in parts.items() if "slideLayouts/slideLayout" not in name}
        with self.assertRaises(PageError):
            Template(without, "t.pptx", "p.md", {})
        with zipfile.ZipFile(BytesIO(packed(parts))) as archive:
            self.assertEqual(archive.testzip(), None)

    def test_faces_and_places(self) -> None:
        self.assertEqual(
            Box(1, 2, 3, 0).xml(), '<a:xfrm><a:off x="9525" y="19050"/><a:ext cx="28575" cy="9525"/></a:xfrm>'
        )
        self.assertIn("schemeClr", Face(colour="accent1").properties("a:rPr", "en"))
        self.assertIn('val="ABCDEF"', Face(colour="abcdef", behind="abcdef").properties("a:rPr", "en"))
        self.assertIn('startAt="1"', numbered(0))
        self.assertEqual(Paragraph("x").plain, "")

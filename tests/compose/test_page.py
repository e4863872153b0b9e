"""Composing: numbers, pointers, pictures, code, the graph, and faults with their place."""

import base64
import re
import unittest
from pathlib import Path
from xml.etree import ElementTree as ET

from tests.support import FolderCase
from wornpage.compose.code import show_code
from wornpage.compose.documentation import Documentation
from wornpage.compose.graph import depths_of, draw_graph, graph_words
from wornpage.compose.pictures import natural_size, picture
from wornpage.output.html.drawing import drawing
from wornpage.plan.graph import Edge, Graph
from wornpage.tree.nodes import Image, Picture, Text
from wornpage.tree.span import Span

SPAN = Span("p.md", 3, 5)
PNG = base64.b64decode(
    "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="
)


class Asked(FolderCase):
    """What chunks show with `page`, composed."""

    def test_a_loop_makes_as_many_numbered_things_as_the_data_has(self) -> None:
        html = self.html(
            """
            ```python run #load show=nothing
            rooms = {"Quayside": 3, "Harrow Lane": 5}
            ```

            ```python run #each show=output
            for name, count in rooms.items():
                page.heading(f"The {name} room")
                page.table({"n": [count]}, f"In {name}: {{= count as words}}", label=f"in {name}")
                page.prose("See {see in-Quayside} & {= count + 1}.")
            ```

            # The Quayside room

            {see in-Quayside, in-Harrow-Lane}
            """
        )
        words = re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", html.partition("<main")[2])).replace("\u00a0", " ")
        self.assertIn(" 1 The Quayside room Table 1 In Quayside: three n 3 See Table 1 &amp; 4. 2 The Harrow", words)
        self.assertIn("Table 2 In Harrow Lane: five n 5 See Table 1 &amp; 6.", words)
        self.assertIn("Tables 1 and 2", words)
        ids = re.findall(r'<h\d id="([^"]+)"', html)
        self.assertEqual(ids, ["the-quayside-room-2", "the-harrow-lane-room", "the-quayside-room"])

    def test_notes_of_chunks_are_numbered_with_those_of_the_page(self) -> None:
        prose = "page.prose('Two[^1].\\n\\n[^1]: From a chunk {= 1 + 1}.')"
        html = self.html(
            f"One[^a].\n\n[^a]: First.\n\n```python run #c show=output\n{prose}\n{prose}\n```\n\nFour[^b].\n\n[^b]: Last.\n"
        )
        self.assertEqual(re.findall(r'id="call-(\d+)"', html), ["1", "2", "3", "4"])
        notes = re.findall(r'<li id="note-(\d)" value="\d"><p>([^<]+?) ?<', html)
        self.assertEqual(notes, [("1", "First."), ("2", "From a chunk 2."), ("3", "From a chunk 2."), ("4", "Last.")])

    def test_faults_in_what_a_chunk_wrote_lie_at_the_chunk(self) -> None:
        for call, what in (
            ("page.prose('{see nowhere}')", "nothing is labelled 'nowhere'"),
            ("page.prose('$\\\\fraq$')", "no command"),
            ("page.prose('```python run\\n1\\n```')", "a chunk stands in"),
            ("page.table({'x': [3.0]}, forms='p-value')", "between 0 and 1"),
        ):
            with self.subTest(call):
                (problem,) = self.faults(f"Text.\n\n```python run #a\n{call}\n```\n")
                self.assertEqual(problem.span.line, 3)
                self.assertIn(what, problem.what)


class Documented(unittest.TestCase):
    """Names in code, led to their documentation."""

    def test_names_are_resolved_through_imports(self) -> None:
        imports = (
            "import numpy as np, os.path\nfrom scipy import stats as s\nimport mine\nfrom json import dumps\nlist = 3"
        )
        found = Documentation([imports], {"mine.*": "https://docs.example/{module}#{last}"})

        def addresses(code: str) -> list[str]:
            return [address.split("//")[1] for links in found.links(code).values() for *_, address in links]

        cases = {
            "np.linalg.norm(x)": ["numpy.org/doc/stable/reference/generated/numpy.linalg.norm.html"],
            "s.norm": ["docs.scipy.org/doc/scipy/reference/generated/scipy.stats.norm.html"],
            "dumps": ["docs.python.org/3/library/json.html#json.dumps"],
            "os.path.join": ["docs.python.org/3/library/os.path.html#os.path.join"],
            "mine.go.on": ["docs.example/mine.go#on"],
            "len": ["docs.python.org/3/library/functions.html#len"],
            "list(unknown).np": [],
            "x = (": [],
        }
        for code, expected in cases.items():
            with self.subTest(code):
                self.assertEqual(addresses(code), expected)

    def test_links_cut_tokens_where_names_begin_and_end(self) -> None:
        code = 'é = f(np.array([1]), "np.sum") #~ note'
        shown = show_code(code, "python", (), Documentation(["import numpy as np"], {}))
        (line,) = shown.lines
        self.assertEqual("".join(token.text for token in line.tokens), 'é = f(np.array([1]), "np.sum")')
        self.assertEqual("".join(token.text for token in line.tokens if token.link), "np.array")


class Beside(FolderCase):
    """Boxes, columns, and what the settings put into the page's head."""

    def test_boxes_stand_in_boxes_with_as_many_colons(self) -> None:
        html = self.html(
            "::: remark A\n::: caution B\ndeep\n:::\n\n```\n:::\n```\n:::\n\n- item\n\n  ::: remark\n  in a list\n  :::\n"
        )
        self.assertEqual(html.count('<div class="box'), 3)
        self.assertRegex(html, r'(?s)aria-label="A">.*aria-label="B">.*deep.*</div>.*:::.*</div>.*<li>')
        (problem,) = self.faults("::: remark\nNever closed.\n")
        self.assertEqual(problem.span.line, 1)

    def test_boxes_have_words_of_their_own_and_columns_share_the_width(self) -> None:
        html = self.html(
            "::: caution Mind *this* {#mind}\nHot.\n:::\n\n::: side-by-side {widths=2:1}\nLeft\n\nRight\n:::\n"
        )
        self.assertIn('<div class="box of-caution" id="mind" role="note" aria-label="Mind this">', html)
        self.assertIn('<p class="box-title">Mind <em>this</em></p>', html)
        self.assertIn('style="--columns:minmax(0, 2fr) minmax(0, 1fr)">\n<div><p>Left</p></div>\n<div><p>Right', html)

    def test_the_head_takes_files_and_says_which_are_missing(self) -> None:
        self.write("extra.css", "p { color: teal } /* </style> */")
        self.write("head.html", "<!-- mine -->")
        page = "---\npress: {html: {head: head.html, stylesheets: [extra.css]}}\n---\n\nText.\n"
        html = self.html(page)
        self.assertIn("<!-- mine -->\n</head>", html)
        self.assertNotIn("</style> */", html)
        (problem,) = self.faults(page.replace("[extra", "[extrra"))
        self.assertEqual((problem.span.line, problem.span.column), (2, 47))
        self.assertIn("extra.css", problem.hint)


class Numbers(FolderCase):
    """Headings, captioned things and what points at them."""

    def test_sections_are_numbered_and_may_be_left_out(self) -> None:
        html = self.html(
            "# A\n\n## B\n\n## C {number=no}\n\n## D\n\n# E {#e}\n\nSee {see e, d} and {see e as title}.\n"
        )
        numbers = re.findall(r'<h\d id="([^"]+)">(?:<span class="number">([\d.]+)</span>)?', html)
        self.assertEqual(numbers, [("a", "1"), ("b", "1.1"), ("c", ""), ("d", "1.2"), ("e", "2")])
        self.assertIn('Sections\u00a0<a href="#d">1.2</a> and <a href="#e">2</a> and <a href="#e">E</a>.', html)
        self.assertNotIn('class="number">1', self.html("---\nsection-numbers: no\n---\n\n# A\n"))

    def test_pointers_join_neighbours_and_say_each_kind_once(self) -> None:
        formulas = "".join(f"$$ x_{name} $$\nLabel: {name}\n\n" for name in "abcdfg")
        html = self.html(
            f"---\nlanguage: de\n---\n\n{formulas}| t |\n|---|\n| {{see a}} |\nCaption: Eine\nLabel: t\n\n"
            "{see c, a, b, t}; {see a, b}; {see g, a, c, b as number}; {see d, f, g, a}\n"
        )
        words = re.sub(r"<[^>]+>", "", html)
        self.assertIn(
            "Gleichungen\u00a01–3 und Tabelle\u00a01; Gleichungen\u00a01 und 2; 1–3 und 6; Gleichungen\u00a01 und 4–6",
            words,
        )
        self.assertIn('<td class="left short"><a href="#a">Gleichung\u00a01</a></td>', html)

    def test_a_thing_that_its_chunk_does_not_show_is_told_by_the_chunk(self) -> None:
        call = "page.table({'a': [1]}, label='big', caption='All.')"
        (fault,) = self.faults(f"```python run #load show=nothing\n{call}\n```\n\nSee {{see big}}.\n")
        self.assertIn("`load`", fault.hint)

    def test_an_appendix_has_letters(self) -> None:
        html = self.html("# A\n\n{see data, more}\n\n{appendix}\n\n# Data\n\n## More\n\n# Code\n")
        numbers = re.findall(r'<h\d id="([^"]+)"><span class="number">([^<]+)</span>', html)
        self.assertEqual(
            numbers, [("a", "1"), ("data", "Appendix\u00a0A"), ("more", "A.1"), ("code", "Appendix\u00a0B")]
        )
        self.assertIn('Appendices\u00a0<a href="#data">A</a> and <a href="#more">A.1</a>', html)

    def test_parts_of_a_figure_can_be_pointed_at(self) -> None:
        page = (
            "```python run #three\nimport matplotlib.pyplot as plt\nfor i in range(3):\n    plt.figure(); plt.plot([1, i])\n```\n"
            "Caption: Three\n\n{see three.b}, {see three.a, three.b, three.c}\n"
        )
        html = self.html(page)
        self.assertIn('<a href="#three">Figure\u00a01b</a>, Figures\u00a0<a href="#three">1a</a>–', html)
        self.assertIn("three.b", self.faults(page.replace("{see three.b}", "{see three.d}"))[0].hint)

    def test_equal_headings_get_places_of_their_own(self) -> None:
        self.assertEqual(
            re.findall(r'<h\d id="([^"]+)"', self.html("# A b\n\n# A b\n\n# Ä ß!\n")), ["a-b", "a-b-2", "ä-ß"]
        )

    def test_words_follow_the_language(self) -> None:
        html = self.html(
            "---\nlanguage: de\n---\n\n| a |\n|---|\n| {= 1234.5 as thousands} |\nCaption: T\nLabel: t\n\nSiehe {see t}, {= 0.5 as percent}.\n"
        )
        self.assertIn("Tabelle\u00a01</a>, 50,0\u00a0%", html)
        self.assertIn("<td>1.234</td>", html.replace(' class="left short"', "").replace(' class="short"', ""))
        self.assertIn('lang="de"', html)

    def test_faults_of_pointers_formulas_images_and_forms_have_their_place(self) -> None:
        text = (
            "# Heading\n\nSee {see headng} and $x + \\fooo$ or [x](#nowhere).\n\n$$\na\n+ \\frac{1\n$$\n\n![i](nope.png)\n\n"
            "{= 'word' as percent}\n"
        )
        found = [(p.span.line, p.span.column, p.hint) for p in self.faults(text)]
        self.assertEqual([place[:2] for place in found], [(3, 5), (3, 27), (3, 37), (7, 8), (10, 6), (12, 1)])
        self.assertIn("'heading'", found[[f[:2] for f in found].index((3, 5))][2])

    def test_lists_of_what_there_is(self) -> None:
        html = self.html("{contents}\n\n{tables}\n\n# One\n\n| a |\n|---|\n| 1 |\nCaption: First table\n\n## Two\n")
        self.assertIn('<li><a href="#one"><span class="number">1</span>One</a><ol><li><a href="#two">', html)
        self.assertIn('<li><a href="#table-1"><span class="number">1</span>First table</a></li>', html)


class Pictures(FolderCase):
    """Images by name, measured, made safe."""

    def image(self, source: str, **pairs: str) -> Image:
        from wornpage.tree.nodes import Attributes

        return Image(SPAN, source, "", (Text(SPAN, "words"),), Attributes(pairs=tuple(pairs.items())))

    def test_sizes_come_from_the_file_or_the_author(self) -> None:
        self.write("a b.png", PNG)
        found, problem = picture(self.image("a%20b.png"), self.folder)
        assert found and problem is None
        self.assertAlmostEqual(found.width, 2.54 / 96)
        found, _ = picture(self.image("a%20b.png", width="3cm"), self.folder)
        assert found
        self.assertEqual((found.width, found.height), (3.0, 3.0))
        found, _ = picture(self.image("a%20b.png", width="50%"), self.folder)
        assert found
        self.assertEqual(found.width, 8.0)
        svg = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 96 48"/>'
        self.assertEqual(natural_size("svg", svg), (2.54, 1.27))
        self.assertEqual(natural_size("gif", b"GIF89a\x60\x00\x30\x00......"), (2.54, 1.27))
        jpeg = b"\xff\xd8\xff\xe0\x00\x04ab\xff\xc0\x00\x0b\x08\x00\x30\x00\x60\x01\x01\x11\x00"
        self.assertEqual(natural_size("jpeg", jpeg), (2.54, 1.27))

    def test_what_cannot_be_shown_is_told(self) -> None:
        self.write("real.png", PNG)
        for source, word in (
            ("reel.png", "real.png"),
            ("a.tiff", "Known"),
            ("https://x.example/a.png", "beside"),
            ("none/a.png", "folder"),
        ):
            found, problem = picture(self.image(source), self.folder)
            assert problem
            self.assertIsNone(found)
            self.assertIn(word, problem.hint)

    def test_broken_files_are_told(self) -> None:
        for name, data, word in (
            ("a.png", PNG[:-12], "cut off"),
            ("b.png", b"GIF89a", "but a GIF"),
            ("c.svg", b"<svg><g></svg>", "its line 1"),
            ("d.jpg", b"words", "no JPEG"),
        ):
            self.write(name, data)
            _, problem = picture(self.image(name), self.folder)
            self.assertIn(word, problem.what if problem else "")

    def test_drawings_stand_inline_only_if_they_are_harmless(self) -> None:
        def drawn(inner: str) -> str:
            svg = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9">{inner}</svg>'
            return drawing(Picture("svg", svg.encode(), 2, 2, 'a "b"'), 7)

        made = drawn('<path id="p" d="M0 0"/><use href="#p"/><rect fill="url(#p)"/>')
        self.assertEqual(made.count("d7-p"), 3)
        self.assertIn("a &quot;b&quot;", made)
        for inner in (
            "<script>1</script>",
            "<style>*{}</style>",
            '<a href="https://x.example">x</a>',
            '<rect onclick="x()"/>',
            "<foreignObject/>",
        ):
            self.assertTrue(drawn(inner).startswith("<img "), inner)


class CodeAndGraph(unittest.TestCase):
    """Code in colour, and the drawing of what flows where."""

    def test_asides_are_gathered_and_numbered(self) -> None:
        shown = show_code("a = 1  #~ first\n#~+ goes on\nb = 2\nc = 3  # ~ second\n", "python", ((2,),))
        self.assertEqual(shown.asides, ("first goes on", "second"))
        self.assertEqual([line.aside for line in shown.lines], [1, 0, 2])
        self.assertEqual([line.picked for line in shown.lines], [False, True, False])
        self.assertEqual(["".join(t.text for t in line.tokens) for line in shown.lines], ["a = 1", "b = 2", "c = 3"])

    def test_colours_change_no_letter(self) -> None:
        code = Path(__file__).read_text(encoding="utf-8")
        for language in ("python", "", "no-such-language", "html"):
            lines = show_code(code, language).lines
            bare = "\n".join("".join(t.text for t in line.tokens) for line in lines)
            self.assertEqual(len(lines), len(bare.split("\n")))
        self.assertIn("keyword", {t.role for line in show_code("def f(): pass", "py").lines for t in line.tokens})

    def test_the_graph_stands_in_layers_and_is_drawn_whole(self) -> None:
        graph = Graph(
            ("d.csv",),
            ("load", "use", "all"),
            (
                Edge("d.csv", "load", ()),
                Edge("load", "use", ("x",)),
                Edge("load", "all", ("x", "y")),
                Edge("use", "all", ("z",)),
            ),
        )
        self.assertEqual(depths_of(graph), {"d.csv": 0, "load": 1, "use": 2, "all": 3})
        fresh, told = draw_graph(graph), draw_graph(graph, {"load": True, "use": False, "all": True})
        self.assertEqual(draw_graph(graph), fresh)
        root = ET.fromstring(told)
        texts = [element.text for element in root.iter() if element.tag.endswith("}text")]
        self.assertEqual(texts, ["d.csv", "load", "use *", "all"])
        self.assertNotIn(b"*", fresh)
        self.assertEqual(graph_words(graph), "What flows where: load from d.csv; use from load; all from load, use.")
        self.assertIn(b"<svg", draw_graph(Graph((), (), ())))


BIB = (
    "@article{ng2019, author = {Ng, Mei-Lin}, title = {Sour <b>}, journal = {J}, year = 2019}\n"
    "@book{li2018, author = {Li, Tomas}, title = {Damp}, publisher = {P}, year = 2018, doi = {10.5555/d}}\n"
)


class Cited(FolderCase):
    """Citations in a page, in every kind of style."""

    def page(self, text: str, style: str = "author-year") -> str:
        self.write("r.bib", BIB)
        return self.html(f"---\ntitle: T\nbibliography: r.bib\ncitation-style: {style}\n---\n\n{text}\n")

    def test_citations_lead_to_their_entries_and_back(self) -> None:
        html = self.page(
            'A {cite ng2019 p. 4; "see" li2018}, {cite li2018 as sentence}.\n\n| c |\n|---|\n| {cite ng2019} |\nCaption: {cite li2018 as year}'
        )
        self.assertIn(
            '<span class="cite" id="cite-1">(see <a href="#ref-li2018">Li 2018</a>; <a href="#ref-ng2019">Ng 2019, p. 4</a>)',
            html,
        )
        self.assertIn('<a href="#ref-li2018">Li</a>', html)
        self.assertIn('<h2 id="references">References</h2>', html)
        entry = re.search(r'<li id="ref-li2018">(.*?)</li>', html)
        assert entry is not None
        self.assertEqual(re.findall(r'href="#(cite-\d)"', entry[1]), ["cite-1", "cite-2", "cite-4"])
        self.assertIn('<a href="https://doi.org/10.5555/d">https://doi.org/10.5555/d</a>', entry[1])
        self.assertIn("Sour &lt;b&gt;", html)

    def test_the_list_stands_where_it_is_placed_or_before_the_appendix(self) -> None:
        placed = self.page("# A\n\n{references}\n\n# B\n\n{cite li2018}")
        self.assertNotIn(">References<", placed)
        self.assertLess(placed.index('id="ref-li2018"'), placed.index('id="b"'))
        added = self.page("# A\n\n{cite li2018}\n\n{appendix}\n\n# More")
        self.assertLess(added.index('id="ref-li2018"'), added.index('id="more"'))

    def test_notes_are_numbered_together_and_stand_close(self) -> None:
        self.write(
            "note.csl",
            '<style xmlns="http://purl.org/net/xbiblio/csl" class="note"><citation><layout suffix="."><text variable="title"/></layout></citation></style>',
        )
        html = self.page(
            "One {cite li2018}. Two[^x]. {cite ng2019 as sentence} three.\n\n[^x]: Note with {cite ng2019}.", "note.csl"
        )
        body, _, notes = html.partition('<section class="notes"')
        self.assertIn('One<a class="noteref" id="call-1"', body)
        self.assertEqual(re.findall(r'id="call-(\d)"', body), ["1", "2", "3"])
        self.assertIn('Ng<a class="noteref" id="call-3"', body)
        self.assertRegex(
            notes,
            r'(?s)id="note-1".*Damp\.<.*id="note-2".*Note with.*Sour[^.]*</span>\. .*id="note-3".*Sour[^.]*\.<',
        )

    def test_faults_are_placed_and_name_what_was_meant(self) -> None:
        self.write("r.bib", BIB)
        head = "---\nbibliography: r.bib\ncitation-style: author-year\n---\n\n"
        for text, place, hint in (
            (head + "A {cite ng2018}.", (6, 3), "ng2019"),
            (head + "A {cite ng2019 as sentense}.", (6, 3), "sentence"),
            (head + "A {cite ; }.", (6, 3), "cite key"),
            (head.replace("r.bib", "s.bib") + "A {cite ng2019}.", (2, 15), "r.bib"),
            (head.replace("author-year", "autor-year") + "A {cite ng2019}.", (3, 17), "author-year"),
            ("A {cite ng2019}.", (1, 3), "bibliography:"),
        ):
            with self.subTest(text):
                found = {(p.span.line, p.span.column): p.hint for p in self.faults(text)}
                self.assertIn(hint, found[place])

    def test_a_broken_entry_is_a_warning_and_the_rest_is_cited(self) -> None:
        from wornpage.press import press

        self.write("r.bib", BIB + "@book{open, title = {T\n")
        path = self.write("page.md", "---\nbibliography: r.bib\n---\n\n{cite li2018}\n")
        self.assertEqual([(w.span.file, w.span.line) for w in press(path).warnings], [("r.bib", 3)])

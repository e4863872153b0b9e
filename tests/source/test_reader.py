"""Reading a page: what becomes what, and where it stands."""

import unittest
from pathlib import Path
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from wornpage.source import Page, parse_page
from wornpage.source.shield import shield
from wornpage.tree import nodes as n
from wornpage.tree.walk import rewrite, walk, words_of


def read(text: str) -> Page:
    return parse_page(text, Path("page.md"), "page.md")


def only(text: str, kind: type) -> Any:
    """The one node of `kind` in a page."""
    found = [node for node in walk(read(text).blocks) if isinstance(node, kind)]
    assert len(found) == 1, found
    return found[0]


class Marks(unittest.TestCase):
    """Marks are read before Markdown's own rules."""

    def test_an_expression_may_hold_what_markdown_and_tables_take_for_theirs(self) -> None:
        text = '| a | b |\n|---|---|\n| {= d["x|y}"]} | *{= a*b}* {= s[0](1) as "%d %B"} |\n'
        marks = [node for node in walk(read(text).blocks) if isinstance(node, n.ValueMark)]
        self.assertEqual([m.expression for m in marks], ['d["x|y}"]', "a*b", "s[0](1)"])
        self.assertEqual(marks[2].form, '"%d %B"')

    def test_a_mark_knows_its_line_and_column(self) -> None:
        mark = only("---\ntitle: x\n---\n\nSome *words*\nand {= value} here.\n", n.ValueMark)
        self.assertEqual((mark.span.line, mark.span.column), (6, 5))

    def test_code_spans_listings_and_escapes_hold_no_marks(self) -> None:
        page = read("`{= a}` \\{= b} $x_{= c}$\n\n```python\n{= d}\n```\n\n    {= e}\n")
        self.assertFalse([node for node in walk(page.blocks) if isinstance(node, n.ValueMark)])
        self.assertIn("{= b}", words_of(page.blocks))

    def test_only_the_last_as_outside_strings_begins_the_form(self) -> None:
        mark = only("{= ' as '.join(x) as thousands}", n.ValueMark)
        self.assertEqual((mark.expression, mark.form), ("' as '.join(x)", "thousands"))

    def test_a_near_miss_is_text_with_a_warning_and_other_braces_are_text(self) -> None:
        page = read("{se figure} {=x} {a set} {1, 2}")
        self.assertEqual([p.span.column for p in page.problems], [1, 13])
        self.assertEqual(words_of(page.blocks), "{se figure} {=x} {a set} {1, 2}")

    def test_an_open_mark_is_a_fault_at_its_brace(self) -> None:
        (problem,) = read("Hello {= (a + b\n\nnext }").problems
        self.assertEqual((problem.span.line, problem.span.column), (1, 7))

    @settings(max_examples=150, deadline=None)
    @given(st.text(alphabet="ab {}=$`\\|\n#.(\"'", max_size=60))
    def test_lifting_out_and_putting_back_loses_nothing(self, text: str) -> None:
        lifted = shield(text, "page.md")
        self.assertEqual(lifted.restore(lifted.text), text)
        self.assertEqual(lifted.text.count("\n"), text.count("\n"))


class Blocks(unittest.TestCase):
    """Blocks and what belongs to them."""

    def test_a_chunk_has_label_options_and_the_line_of_its_code(self) -> None:
        chunk = only('# Climate\n\n```python run #load width=4in alt="two words"\nx = 1\n```\n', n.Chunk)
        self.assertEqual((chunk.label, chunk.code, chunk.code_line), ("load", "x = 1\n", 4))
        self.assertEqual(
            [(o.key, o.value, o.span.column) for o in chunk.options], [("width", "4in", 21), ("alt", "two words", 31)]
        )

    def test_chunks_without_a_label_are_named_after_their_heading_and_place(self) -> None:
        chunk = "```python run\nx\n```\n\n"
        page = read(f"{chunk}# Two Words\n\n{chunk}{chunk}# B {{#short}}\n\n{chunk}")
        self.assertEqual([c.label for c in page.chunks], ["top-1", "two-words-1", "two-words-2", "short-1"])

    def test_captions_join_what_stands_above_with_or_without_a_blank_line(self) -> None:
        table = only("| a |\n|---|\n| 1 |\nCaption: Of *one*\nline more.\n\nText.", n.PipeTable)
        self.assertEqual(words_of(table.caption.children), "Of one line more.")
        chunk = only("```python run\nx\n```\n\nCaption (table): T\nCaption: F\n", n.Chunk)
        self.assertEqual([(c.kind, words_of(c.children)) for c in chunk.captions], [("table", "T"), ("", "F")])
        self.assertEqual(words_of(only("![a](b.png)\nCaption: P", n.PictureBlock).caption.children), "P")
        self.assertEqual(only("$$ x $$\nLabel: eq", n.RawMathBlock).label, "eq")
        self.assertEqual(words_of(read("\\Caption: as text").blocks), "Caption: as text")

    def test_the_shared_extensions_are_read(self) -> None:
        text = (
            "Term\n: Meaning\n\n- [ ] open\n- [x] done\n\n~~gone~~ note[^1] ![i](a.png){width=3cm #i}\n\n"
            "[^1]: The *note*.\n\n::: remark {#r .wide}\nInside.\n:::\n\n## Named {#h number=no}\n\n{contents}\n"
        )
        nodes = list(walk(read(text).blocks))
        self.assertEqual([i.done for i in nodes if isinstance(i, n.Item)], [False, True])
        self.assertEqual([words_of(f.blocks) for f in nodes if isinstance(f, n.Footnote)], ["The note."])
        (image,) = [i for i in nodes if isinstance(i, n.Image)]
        self.assertEqual((image.attributes.label, image.attributes.get("width")), ("i", "3cm"))
        (box,) = [b for b in nodes if isinstance(b, n.Container)]
        self.assertEqual((box.kind, box.attributes.label, box.attributes.classes), ("remark", "r", ("wide",)))
        (heading,) = [h for h in nodes if isinstance(h, n.Heading)]
        self.assertEqual(
            (words_of(heading.children), heading.label, heading.attributes.get("number")), ("Named", "h", "no")
        )
        self.assertEqual([c.verb for c in nodes if isinstance(c, n.Command)], ["contents"])

    def test_line_ends_and_a_byte_order_mark_make_no_difference(self) -> None:
        text = "---\ntitle: x\n---\n\n# A\n\n```python run\nx = 1\n```\n"
        self.assertEqual(read("\ufeff" + text.replace("\n", "\r\n")), read(text))

    def test_every_fault_of_the_text_is_found_with_its_place(self) -> None:
        text = "Caption: lost\n\n```python run #a extra\n```\n\n```python run #a\n```\n\n::: box\n\n```python run b=1 b=2\n"
        places = [(p.span.line, p.span.column) for p in sorted(read(text).problems, key=lambda p: p.span)]
        self.assertEqual(places, [(1, 1), (3, 18), (6, 1), (9, 1), (11, 1), (11, 19)])

    def test_a_rewriting_that_changes_nothing_gives_the_same_tree(self) -> None:
        blocks = read("# A\n\n- *b* [c](d)\n\n| e |\n|---|\n| {= f} |\n").blocks
        self.assertIs(rewrite(blocks, lambda node: None), blocks)

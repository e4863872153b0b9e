"""The ground floor: problems, walking, and the words of running text."""

import errno
import pickle
import re
import unittest
from pathlib import Path

from wornpage.tree import nodes as n
from wornpage.tree.bugs import said_of
from wornpage.tree.problem import PageError, Problem, Severity, WornError, near_miss, quoted, stop_on_errors
from wornpage.tree.span import Span
from wornpage.tree.table import Column, Group, Kind, TableData
from wornpage.tree.walk import are_words, map_blocks, rewrite, walk, words_of

SPAN = Span("p.md", 4, 2)


def text(words: str) -> n.Text:
    return n.Text(SPAN, words)


class Problems(unittest.TestCase):
    def test_what_the_system_refuses_is_no_fault_of_ours(self) -> None:
        for refused in (
            OSError(errno.ENOSPC, "No space left", "a.html"),
            PermissionError(errno.EACCES, "Denied"),
            MemoryError(),
        ):
            self.assertNotIn("fault", said_of(refused)[0])
        try:
            raise KeyError("x")
        except KeyError as bug:
            what, hint = said_of(bug)
        self.assertIn("KeyError: 'x'", what)
        kept = Path(re.search(r"details in (\S+);", hint)[1])  # type: ignore[index]
        self.assertIn("KeyError", kept.read_text("utf-8"))
        kept.unlink()

    def test_words_between_quotation_marks_keep_their_backslashes(self) -> None:
        self.assertEqual(quoted(r"\frac"), r"'\frac'")
        self.assertEqual(quoted("a\nb"), r"'a\nb'")
        self.assertEqual(near_miss(r"\frca", [r"\frac"]), r"Did you mean '\frac'?")

    def test_a_problem_reads_as_one_line_that_editors_jump_from(self) -> None:
        self.assertEqual(str(Problem(SPAN, "it is wrong", "Do this.")), "p.md:4:2: it is wrong. Do this.")
        self.assertEqual(str(Problem(SPAN, "look.", severity=Severity.WARNING)), "p.md:4:2: warning: look.")
        self.assertEqual(str(Problem(SPAN, "bad", detail="more")), "p.md:4:2: bad.\nmore")

    def test_errors_come_in_source_order_and_survive_pickling(self) -> None:
        error = PageError([Problem(Span("p.md", 9), "b"), Problem(Span("p.md", 2), "a")])
        self.assertEqual([problem.what for problem in error.problems], ["a", "b"])
        again = pickle.loads(pickle.dumps(error))
        self.assertEqual((type(again), again.problems, str(again)), (PageError, error.problems, str(error)))
        self.assertIsInstance(again, WornError)

    def test_only_errors_stop(self) -> None:
        warning = Problem(SPAN, "w", severity=Severity.WARNING)
        stop_on_errors([warning])
        with self.assertRaises(PageError) as caught:
            stop_on_errors([warning, Problem(SPAN, "e")])
        self.assertEqual(len(caught.exception.problems), 2)

    def test_near_misses(self) -> None:
        self.assertEqual(near_miss("humidty", ["humidity", "other"]), "Did you mean 'humidity'?")
        self.assertEqual(near_miss("zzz", ["humidity"]), "")


class Walking(unittest.TestCase):
    TREE = (
        n.Paragraph(SPAN, (text("a "), n.Strong(SPAN, (text("b"), n.Code(SPAN, "c"))))),
        n.List(SPAN, (n.Item(SPAN, (n.Paragraph(SPAN, (text("d"),)),)),), False),
        n.PipeTable(SPAN, ((text("h"),),), ("",), (((text("e"),),),)),
    )

    def test_nodes_come_parents_first_in_page_order(self) -> None:
        found = [type(node).__name__ for node in walk(self.TREE)]
        wanted = [
            "Paragraph",
            "Text",
            "Strong",
            "Text",
            "Code",
            "List",
            "Item",
            "Paragraph",
            "Text",
            "PipeTable",
            "Text",
            "Text",
        ]
        self.assertEqual(found, wanted)
        self.assertEqual(words_of(self.TREE), "a bcdhe")

    def test_a_node_may_become_several_or_none(self) -> None:
        def change(node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
            if isinstance(node, n.Code):
                return (text("x"), text("y"))
            return () if isinstance(node, n.Text) and node.text == "d" else None

        self.assertEqual(words_of(rewrite(self.TREE, change)), "a bxyhe")

    def test_blocks_are_changed_wherever_they_stand(self) -> None:
        count = 0

        def visit(block: n.Block) -> n.Block:
            nonlocal count
            count += 1
            return block

        self.assertIs(map_blocks(self.TREE, visit), self.TREE)
        self.assertEqual(count, 5)

    def test_paragraphs_of_words_alone_are_passed_over_where_that_is_asked(self) -> None:
        note = n.Footnote(SPAN, "1", (n.Paragraph(SPAN, (text("in a note"),)),))
        there = n.Link(SPAN, "https://marlow.example", "", (text("there"),))
        for inlines, are in (
            ((text("a"), n.Emphasis(SPAN, (n.Code(SPAN, "b"),)), there), True),
            ((text("a"), n.Strong(SPAN, (note,))), False),
            ((n.Link(SPAN, "", "", (text("here"),), "label"),), False),
            ((n.RawMath(SPAN, "x"),), False),
        ):
            seen: list[n.Node] = []
            rewrite((n.Quote(SPAN, (n.Paragraph(SPAN, inlines),)),), seen.append, into_words=False)
            self.assertEqual((are_words(inlines), text("a") in seen or len(seen) > 1), (are, not are))

    def test_what_readers_do_not_read_has_no_words(self) -> None:
        inlines = (
            text("a"),
            n.SoftBreak(SPAN),
            n.RawHtmlInline(SPAN, "<b>"),
            n.Footnote(SPAN, "1", ()),
            n.Image(SPAN, "f", "", (text("alt"),)),
        )
        self.assertEqual(words_of(inlines), "a alt")


class Tables(unittest.TestCase):
    def test_the_first_rows_and_the_count_of_the_others(self) -> None:
        column = Column(("n",), Kind.NUMBER, tuple(range(6)))
        table = TableData((column,), 3, (Group(0, "a"), Group(4, "b")), continued=(2, 5))
        less = table.first(3)
        self.assertEqual((less.rows, less.left_out, less.groups, less.continued), (3, 6, (Group(0, "a"),), (2,)))
        self.assertEqual(table.first(2).rows, 3, "a row goes with the one that it continues")
        self.assertIs(table.first(6), table)
        summed = TableData((column,), foot=1)
        self.assertIs(summed.first(2), summed, "sums are of all rows")

"""Numbers of headings and of what has captions, and pointers to them in words."""

import unittest

from tests.compose.drafts import ComposeCase, links_of, paragraphs_of
from wornpage.compose.answering import Draft
from wornpage.compose.language import language_of
from wornpage.compose.numbering import Target
from wornpage.compose.pointers import find_label, point
from wornpage.source import read_page
from wornpage.tree import nodes as n
from wornpage.tree.span import Span
from wornpage.tree.walk import walk, words_of

SPAN = Span("page.md", 3)


class Headings(ComposeCase):
    """Levels, numbers and labels of headings."""

    def test_skipped_levels_are_closed_and_appendices_have_letters(self) -> None:
        page = self.sound(
            "## Paper\n\n#### Rag\n\n#### Wood\n\n## Leather\n\n### Calf {number=no}\n\n### Goat\n\n{appendix}\n\n# Tables\n\n## Loans\n\n# Notes\n"
        )
        self.assertEqual(
            [(entry.level, entry.number, words_of(entry.children)) for entry in page.contents],
            [(1, "1", "Paper"), (2, "1.1", "Rag"), (2, "1.2", "Wood"), (1, "2", "Leather"), (2, "", "Calf"), (2, "2.1", "Goat"),
             (1, "A", "Tables"), (2, "A.1", "Loans"), (1, "B", "Notes")],
        )  # fmt: skip
        words = [node.word for node in walk(page.blocks) if isinstance(node, n.Heading)]
        self.assertEqual(words[-3:], ["Appendix", "", "Appendix"])

    def test_headings_are_not_numbered_where_the_page_does_not_wish_it(self) -> None:
        page = self.sound("---\nsection-numbers: no\n---\n# Paper\n\nSee {see paper} and {see paper as title}.\n")
        self.assertEqual([entry.number for entry in page.contents], [""])
        self.assertEqual(paragraphs_of(page), ["See Paper and Paper."])

    def test_a_label_made_from_a_headings_words_gives_way(self) -> None:
        page = self.sound("# Loans\n\n| n |\n|---|\n| 1 |\n\nCaption: All.\nLabel: loans\n\n# Loans\n\n{see loans}\n")
        labels = [node.label for node in walk(page.blocks) if isinstance(node, n.Heading | n.TableBlock)]
        self.assertEqual(len(set(labels)), 3)
        self.assertEqual(links_of(page), [("Table\u00a01", "loans", "")])

    def test_a_label_given_twice_is_told_at_the_second(self) -> None:
        table = "| n |\n|---|\n| 1 |\n\nCaption: All.\nLabel: loans\n\n"
        _, problems = self.composed(f"Text.\n\n{table}{table}")
        self.assertEqual([(one.span.line, "line 3" in one.what) for one in problems], [(10, True)])


class Captioned(ComposeCase):
    """Each kind counts for itself; parts have letters."""

    def test_each_kind_counts_for_itself(self) -> None:
        page = self.sound(
            "| n |\n|---|\n| 1 |\n\nCaption: One.\n\n```python #way\n1\n```\n\n$$\nx\n$$\n\nLabel: sum\n\n| n |\n|---|\n| 1 |\n\n| n |\n|---|\n| 2 |\n\nCaption: Two.\nLabel: two\n\n"
            "{see way}, {see sum}, {see two}, {see table-1}\n"
        )
        self.assertEqual(paragraphs_of(page)[-1], "Listing 1, Equation 1, Table 2, Table 1")
        numbers = [node.number for node in walk(page.blocks) if isinstance(node, n.TableBlock)]
        self.assertEqual(numbers, ["1", "", "2"])

    def test_what_has_no_number_cannot_be_pointed_at(self) -> None:
        _, problems = self.composed("```python run #plot\n1\n```\n\n{see plot} {see plat}\n")
        self.assertEqual([one.span.column for one in problems], [1, 12])
        self.assertIn("`Caption:`", problems[0].hint)
        self.assertNotIn("`Caption:`", problems[1].hint)


def target(kind: str, *place: int, page: str = "", words: str = "") -> Target:
    """Something with this number."""
    number = ".".join(map(str, place))
    said = (n.Text(SPAN, words),) if words else ()
    return Target(kind, number, said, f"{kind}-{number}", SPAN, place, page)


class Pointers(ComposeCase):
    """What stands for a pointer."""

    def said(
        self, labels: str, targets: dict[str, Target], form: str = "", language: str = "en", apart: str = ""
    ) -> str:
        page = read_page(self.write("page.md", "Text.\n"), "page.md")
        mark = n.PointerMark(SPAN, tuple(labels.split()), form, apart=apart)
        words, problems = point(mark, targets, Draft(page, None, language_of(language), n.TitleBlock(), (), (), ()))  # type: ignore[arg-type]
        self.assertEqual(problems, [])
        return words_of(words).replace("\u00a0", " ")

    def test_neighbours_are_ranges_whatever_their_order(self) -> None:
        targets = {f"f{number}": target("figure", number) for number in range(1, 9)}
        cases = {
            "f1": "Figure 1", "f2 f1": "Figures 1 and 2", "f3 f1 f2": "Figures 1–3", "f1 f2 f3 f5 f7 f8": "Figures 1–3, 5, 7 and 8",
            "f1 f1": "Figure 1",
        }  # fmt: skip
        for labels, expected in cases.items():
            self.assertEqual(self.said(labels, targets), expected)
        self.assertEqual(self.said("f3 f1 f2", targets, "number"), "1–3")
        self.assertEqual(self.said("f1 f3", targets, language="de"), "Abbildungen 1 und 3")

    def test_kinds_stand_apart_and_sections_in_depth_are_no_neighbours_of_others(self) -> None:
        targets = {
            "a": target("section", 1, 1), "b": target("section", 1, 2), "c": target("section", 2), "d": target("section", 1, 3),
            "t": target("table", 1), "e": target("equation", 4),
        }  # fmt: skip
        self.assertEqual(self.said("a b d c", targets), "Sections 1.1–1.3 and 2")
        self.assertEqual(self.said("a t e", targets), "Section 1.1, Table 1 and Equation 4")

    def test_titles_are_listed_and_stand_in_for_numbers(self) -> None:
        targets = {
            "a": target("section", words="Paper"),
            "b": target("figure", 2, words="Damp"),
            "c": target("section", words="Glue"),
        }
        self.assertEqual(self.said("a b c", targets, "title"), "Paper, Damp and Glue")
        self.assertEqual(self.said("a", targets), "Paper")
        self.assertEqual(self.said("a c", targets), "Paper and Glue")

    def test_labels_of_the_same_repetition_come_first(self) -> None:
        targets = dict.fromkeys(("plot", "plot.quay", "plot.quay.2", "map.quay.a", "legend"), target("figure", 1))
        for label, apart, expected in (
            ("plot", "quay.2", "plot.quay.2"), ("plot", "quay.3", "plot.quay"), ("plot", "mill", "plot"), ("plot", "", "plot"),
            ("map.a", "quay", "map.quay.a"), ("legend", "quay", "legend"), ("no", "quay", ""),
        ):  # fmt: skip
            self.assertEqual(find_label(label, apart, targets), expected)


if __name__ == "__main__":
    unittest.main()

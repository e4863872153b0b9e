"""What controls of a page can stand at, together."""

from __future__ import annotations

from tests.support import FolderCase
from wornpage.choices.controls import Choices, choices_of
from wornpage.press import prepare
from wornpage.source import read_page
from wornpage.tree.problem import PageError

GIVEN = """
given:
  branch: {default: Quayside, one-of: [Quayside, Millpond]}
  above: {default: 0.3, from: 0.1, to: 0.4, step: 0.1}
  count: {default: 2, from: 1, to: 3}
  all: yes
  day: {default: 2026-03-02, from: 2026-03-01, to: 2026-03-03}
  any: {default: 5, from: 0}
  shelves: [a]
  none: {type: text}
"""


class Controls(FolderCase):
    def choices(self, options: str, further: str = "") -> Choices:
        """Those of a page."""
        page = self.write("page.md", f"---\n{further}press: {{html: {{{options}}}}}{GIVEN}---\nWords.\n")
        source = read_page(page, "page.md")
        found = choices_of(source, prepare(source)[0])
        assert found is not None
        return found

    def fault(self, options: str, further: str = "") -> str:
        """What is wrong with them."""
        with self.assertRaises(PageError) as caught:
            self.choices(options, further)
        return str(caught.exception.problems[0])

    def test_all_go_with_all_and_the_page_itself_comes_first(self) -> None:
        found = self.choices("controls: [above, all]")
        self.assertEqual(len(found.sets), 8)
        self.assertEqual(found.sets[0], {"above": "0.3", "all": "yes"})
        self.assertEqual(sorted({str(one["above"]) for one in found.sets}), ["0.1", "0.2", "0.3", "0.4"])
        self.assertEqual(len(self.choices("controls: [branch, count, day]").sets), 18)
        self.assertEqual(self.choices("controls: branch").given, {"branch": "Quayside"})

    def test_those_of_the_editions_go_together_as_they_do(self) -> None:
        editions = "editions: {sets: [{branch: Millpond, any: 7}, {branch: Quayside, any: 5}, {branch: Millpond, any: 9, count: 3}]}\n"
        found = self.choices("controls: [branch, any], controls-from: editions", editions)
        self.assertEqual(
            [tuple(one.values()) for one in found.sets], [("Quayside", "5"), ("Millpond", "7"), ("Millpond", "9")]
        )
        self.assertEqual(found.declared["any"].one_of, (5, 7, 9))

    def test_what_has_no_end_or_is_too_much_is_told_where_it_stands(self) -> None:
        wanted = {
            "controls: [branch, any]": (
                r"^page\.md:2:35: there is no end of values that any",
                "controls-from: editions",
            ),
            "controls: [shelves]": ("shelves is a list", ""),
            "controls: [none]": ("no value to begin with", "default"),
            "controls: [branhc]": ("no given 'branhc'", "branch"),
            "controls: [above, count, day, all], most-states: 20": ("72 ways", "most-states"),
            "controls: [branch], controls-from: editions": ("no editions", ""),
        }
        for options, (what, hint) in wanted.items():
            with self.subTest(options):
                told = self.fault(options)
                self.assertRegex(told, what)
                self.assertIn(hint, told)

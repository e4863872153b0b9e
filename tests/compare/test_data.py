"""What changed in files of data: whatever is in them, each row that came or went is told, and nothing breaks."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from wornpage.compare.data import described

CELLS = st.text(alphabet='ab1 ;,"\n\u00e9.-', max_size=4)
ROOMS = st.dictionaries(st.integers(0, 30), st.integers(0, 9), min_size=1, max_size=12)


def said(path: str, before: str, after: str) -> str:
    return "; ".join(described(path, before.encode(), after.encode()))


class Data(unittest.TestCase):
    def test_semicolons_and_keys_that_are_empty(self) -> None:
        self.assertEqual(
            said("a.csv", "room;damp\na;1,5\nb;2,5\n", "room;damp\na;1,5\nc;2,5\n"), "1 row went: b; 1 row came: c"
        )
        told = said("a.csv", "room,damp\na,1\n,2\n", "room,damp\na,1\n,3\n")
        self.assertIn("2", told)
        self.assertIn("3", told)
        self.assertEqual(said("a.json", "{}", "[1"), "1 line came, 1 line went")

    @given(ROOMS, ROOMS)
    def test_rows_that_came_went_and_changed_are_counted(self, was: dict[int, int], now: dict[int, int]) -> None:
        def text(rooms: dict[int, int]) -> str:
            return "room,damp\n" + "".join(f"r{room},{damp}\n" for room, damp in rooms.items())

        told = said("rooms.csv", text(was), text(now))
        came, went = len(now.keys() - was.keys()), len(was.keys() - now.keys())
        changed = sum(was[room] != now[room] for room in was.keys() & now.keys())
        if not was.keys() & now.keys():  # nothing names the rows
            return
        for count, words in ((went, "went:"), (came, "came:")):
            self.assertEqual(f"{count} row{'' if count == 1 else 's'} {words}" in told, count > 0, told)
        self.assertEqual(f"`damp` changed in {changed} row" in told, changed > 0, told)

    @given(st.sampled_from(["a.csv", "a.tsv", "a.json", "a.txt"]), st.lists(st.lists(CELLS, max_size=3), max_size=4), st.lists(st.lists(CELLS, max_size=3), max_size=4))  # fmt: skip
    def test_nothing_breaks_it(self, path: str, was: list[list[str]], now: list[list[str]]) -> None:
        before, after = ("\n".join(map(",".join, rows)) for rows in (was, now))
        self.assertTrue(said(path, before, after))
        self.assertTrue(described(path, before.encode("utf-16"), after.encode()))


if __name__ == "__main__":
    unittest.main()

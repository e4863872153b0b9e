"""What a talk takes from its speaker, and what it refuses."""

import unittest

from wornpage.talk.standing import Standing, Unfit

STROKE = {"t": "pen", "c": "#c0392b", "w": 4, "p": [1, 2, 0.5, 3, 4, 0.5]}


class Talking(unittest.TestCase):
    def setUp(self) -> None:
        self.standing = Standing(["first", "last"])

    def test_who_comes_late_is_told_all(self) -> None:
        self.assertEqual(self.standing.everything(), {"state": None, "drawn": {"slides": {}, "boards": []}})
        self.standing.take({"state": {"at": 1, "step": 2, "black": True, "more": "<script>"}})
        self.standing.take({"drawn": {"name": "last", "strokes": [STROKE]}})
        event, data = self.standing.take({"drawn": {"name": "board:1", "live": STROKE}})
        self.assertEqual((event, data["drawn"]["live"]["w"]), ("drawn", 4.0))
        self.standing.take({"drawn": {"name": "board:1", "strokes": []}})
        told = self.standing.everything()
        self.assertEqual(told["state"], {"at": 1, "step": 2, "black": True, "board": -1})
        self.assertEqual([len(told["drawn"]["slides"]["last"]), told["drawn"]["boards"]], [1, [[], []]])

    def test_what_no_page_sends_is_refused_and_changes_nothing(self) -> None:
        for message in (
            {}, [], "state", {"state": {"at": 2, "step": 0}}, {"state": {"at": -1, "step": 0}}, {"state": None},
            {"drawn": {"name": "gone", "strokes": []}}, {"drawn": {"name": "board:500", "strokes": []}}, {"drawn": {"name": "board:x", "strokes": []}},
            {"drawn": {"name": "first", "strokes": [{**STROKE, "c": "url(x)"}]}}, {"drawn": {"name": "first", "strokes": [{**STROKE, "p": [1, 2]}]}},
            {"drawn": {"name": "first", "strokes": [{**STROKE, "p": [1, 2, float("nan")]}]}}, {"drawn": {"name": "first", "everything": {}}},
            {"drawn": {"name": "first", "strokes": [{**STROKE, "w": 1e9}]}}, {"drawn": {"name": "first"}},
        ):  # fmt: skip
            with self.subTest(message), self.assertRaises(Unfit):
                self.standing.take(message)
        self.assertEqual(self.standing.everything()["drawn"], {"slides": {}, "boards": []})

    def test_it_holds_no_more_than_it_can(self) -> None:
        full = {**STROKE, "p": [1, 2, 0.5] * 500_000}
        self.standing.take({"drawn": {"name": "first", "strokes": [full]}})
        with self.assertRaises(Unfit):
            self.standing.take({"drawn": {"name": "last", "strokes": [full, STROKE]}})
        self.standing.take({"drawn": {"name": "first", "strokes": [STROKE]}})

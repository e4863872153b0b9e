"""The line: fair, bounded, the same wish of several once, nothing run that nobody waits for."""

from __future__ import annotations

import unittest
from collections.abc import Callable

from hypothesis import example, given, settings
from hypothesis import strategies as st

from wornpage.desk.line import Full, Line
from wornpage.desk.wishes import Wish
from wornpage.desk.work import Report


def wish(name: str) -> Wish:
    """A wish that is called so."""
    return Wish("page", {"name": name})


class Lines(unittest.TestCase):
    def setUp(self) -> None:
        self.line = Line()
        self.stopped: list[str] = []

    def stop(self, name: str = "") -> Callable[[], None]:
        """Ends something; notes that it was asked to."""
        return lambda: self.stopped.append(name)

    def served(self, count: int) -> str:
        """Who is served next, one after the other, each done before the next begins."""
        names = []
        for _ in range(count):
            ticket = self.line.next(self.stop())
            assert ticket is not None
            names.append(str(ticket.wish.given["name"]))
            self.line.ended(ticket, Report())
        return " ".join(names)

    def test_who_asks_much_does_not_keep_others_waiting(self) -> None:
        for name in ("a1", "a2", "a3", "b1", "c1", "b2"):
            self.line.join(wish(name), name[0], name)
        self.assertEqual(
            [self.line.standing(wish(n).key).ahead for n in ("a1", "b1", "c1", "a2", "b2", "a3")], [0, 1, 2, 3, 4, 5]
        )  # type: ignore[union-attr]
        self.assertEqual(self.served(6), "a1 b1 c1 a2 b2 a3")

    def test_whoever_has_nothing_running_comes_first(self) -> None:
        for name in ("a1", "a2", "b1"):
            self.line.join(wish(name), name[0], name)
        first = self.line.next(self.stop())
        second = self.line.next(self.stop())
        assert first is not None and second is not None
        self.assertEqual([first.person, second.person], ["a", "b"])

    def test_the_same_wish_is_run_once_for_all(self) -> None:
        one, two = self.line.join(wish("x"), "a", "tab1"), self.line.join(wish("x"), "b", "tab2")
        self.assertIs(one, two)
        self.assertEqual(self.line.count(), (0, 1))
        self.line.leave("tab1")
        self.assertEqual(self.served(1), "x")
        self.assertEqual(self.stopped, [])

    def test_a_change_ends_what_nobody_else_waits_for(self) -> None:
        self.line.join(wish("old"), "a", "tab")
        self.line.next(self.stop("old"))
        self.line.join(wish("new"), "a", "tab")
        self.assertEqual(self.stopped, ["old"])
        self.line.join(wish("newer"), "a", "tab")  # what waited is gone, without having run
        self.assertEqual([one.given["name"] for one, _ in self.line.open_wishes()], ["newer"])

    def test_wished_again_while_it_is_being_ended_it_runs_again(self) -> None:
        old = self.line.join(wish("x"), "a", "tab")
        self.line.next(self.stop("x"))
        self.line.join(wish("y"), "a", "tab")
        again = self.line.join(wish("x"), "a", "tab")
        self.line.ended(old, Report(stopped=True))
        self.assertEqual((self.line.standing(again.wish.key) or old).state, "waiting")
        self.assertEqual(self.served(1), "x")

    def test_who_goes_away_may_come_back_for_a_while(self) -> None:
        key = self.line.join(wish("x"), "a", "tab").wish.key
        self.line.here(key, "tab")
        self.line.away(key, "tab")
        self.line.tidy(60)
        self.line.here(key, "tab")
        self.line.tidy(0)
        self.assertEqual(self.line.count(), (0, 1))
        self.line.away(key, "tab")
        self.line.tidy(0)
        self.assertEqual(self.line.count(), (0, 0))

    def test_it_has_room_for_so_many(self) -> None:
        with self.assertRaisesRegex(Full, "one person"):
            for number in range(100):
                self.line.join(wish(f"a{number}"), "a", f"tab{number}")
        with self.assertRaisesRegex(Full, "more people"):
            for number in range(1000):
                self.line.join(wish(f"p{number}"), f"p{number}", f"other{number}")

    def test_ends_are_forgotten(self) -> None:
        for number in range(2500):
            ticket = self.line.join(wish(str(number)), "a", "tab")
            self.line.next(self.stop())
            self.line.ended(ticket, Report())
        self.line.leave("tab")
        self.line.tidy(0)
        self.assertLessEqual(len(self.line._tickets), 2001)

    @example([("j", 1, 3), ("n", 0, 0), ("g", 0, 0), ("j", 0, 3), ("j", 0, 0)])
    @example([("j", 1, 3), ("n", 0, 0), ("g", 0, 0), ("j", 0, 3), ("n", 0, 0), ("j", 0, 0), ("g", 0, 0)])
    @given(st.lists(st.tuples(st.sampled_from("joingtu"), st.integers(0, 3), st.integers(0, 4)), max_size=60))
    @settings(max_examples=150, deadline=None)
    def test_whatever_happens_nothing_is_lost_or_run_for_nobody(self, acts: list[tuple[str, int, int]]) -> None:
        line, running, wanted = Line(), [], {}  # what each tab wants
        for act, person, what in acts:
            tab = f"tab{person}"
            if act in "jo":
                line.join(wish(str(what)), str(person), tab)
                wanted[tab] = wish(str(what)).key
            elif act == "i":
                line.leave(tab)
                wanted.pop(tab, None)
            elif act == "n" and line.count()[1]:
                running.append(line.next(lambda: None))
            elif act in "gt" and running:
                ticket = running.pop(0)
                line.ended(ticket, Report(stopped=ticket.state == "stopped"))
            open_now = [one.key for one, _ in line.open_wishes()]
            self.assertEqual(len(open_now), len(set(open_now)))
            self.assertLessEqual(set(open_now), set(wanted.values()))
            for key in wanted.values():
                standing = line.standing(key)
                self.assertIsNotNone(standing)
                self.assertNotEqual(standing.state, "stopped")  # type: ignore[union-attr]

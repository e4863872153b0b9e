"""Mother sessions: made when they are worth it, forked as long as they hold, ended when they do not."""

import unittest
from pathlib import Path
from typing import Any

from wornpage.plan.nursery import Nursery
from wornpage.plan.wanted import Common, Wanted
from wornpage.session.tasks import CannotFork, Environment
from wornpage.store.trace import Read, Trace


class FakeSession:
    """A session that counts what is done with it."""

    def __init__(self, can_fork: bool = True) -> None:
        self.can_fork, self.forks, self.is_closed = can_fork, 0, False

    def fork(self, given: dict[str, object], ahead: bool = False) -> "FakeSession":
        if not self.can_fork:
            raise CannotFork
        self.forks += 1
        return FakeSession()

    def close(self) -> None:
        self.is_closed = True


def trace(run: str, *reads: Read, **more: Any) -> Trace:
    return Trace("a", "key", run, run, 1.0, reads, **more)


class Nurseries(unittest.TestCase):
    def setUp(self) -> None:
        self.made: list[tuple[str, int, FakeSession]] = []
        self.can_fork = True
        self.executes = True
        self.ambient = {"packages": "MASS"}
        self.given: dict[str, object] = {"n": 1}

    def make(self, language: str, steps: int) -> Common:
        session = FakeSession(self.can_fork)
        self.made.append((language, steps, session))
        return Common(session, list(range(steps)) if self.executes else [], {}, [])  # type: ignore[arg-type]

    def asked(self, nursery: Nursery, *kept: Trace | None, language: str = "python") -> bool:
        environment = Environment(Path(), "p.md", self.given)
        return nursery.child(Wanted(language, "1", environment, kept, self.ambient), self.make) is not None

    def test_the_first_that_is_wanted_is_no_reason_for_a_mother(self) -> None:
        nursery = Nursery()
        self.assertFalse(self.asked(nursery, trace("1")))
        self.assertTrue(self.asked(nursery, trace("1")))
        self.assertTrue(self.asked(nursery, trace("1")))
        self.assertEqual([(steps, session.forks) for _, steps, session in self.made], [(1, 2)])
        self.assertFalse(self.asked(nursery, trace("1"), language="bash"))

    def test_only_what_no_given_value_reaches_is_shared(self) -> None:
        given = trace("2", Read("given", "n", "1"))
        for whatever, steps in ((False, 1), (True, 3)):
            nursery, self.made = Nursery(whatever), []
            for _ in range(2):
                self.asked(nursery, trace("1"), given, trace("3"))
            self.assertEqual([one[1] for one in self.made], [steps])
        nursery, self.made = Nursery(), []
        for _ in range(3):
            self.assertFalse(self.asked(nursery, given, trace("1")))
            self.assertFalse(self.asked(nursery, None, trace("1")))
        self.assertEqual(self.made, [])

    def test_another_run_of_what_is_shared_ends_the_mother(self) -> None:
        nursery = Nursery()
        for runs in (("1", "2"), ("1", "2"), ("1", "2", "3"), ("1", "x")):
            self.asked(nursery, *map(trace, runs))
        (_, _, first), (_, _, second) = self.made
        self.assertEqual((first.forks, first.is_closed, second.forks, second.is_closed), (2, True, 1, False))
        nursery.close()
        self.assertTrue(second.is_closed)

    def test_what_cannot_be_forked_is_made_ready_for_the_place_that_was_wanted_last(self) -> None:
        nursery = Nursery(whatever_is_given=True)

        def ask(*runs: str) -> bool:
            return self.asked(nursery, *map(trace, runs), language="r")

        self.assertFalse(ask("1", "2"))
        nursery.make_ready()
        self.assertTrue(ask("1", "2"))
        self.assertFalse(ask("1", "2"), "it is used once")
        nursery.make_ready()
        self.assertFalse(ask("1", "other"), "something had to run for it")
        nursery.make_ready()
        nursery.make_ready()
        self.ambient = {}
        self.assertFalse(ask("1", "other"), "other packages")
        self.assertEqual([steps for _, steps, _ in self.made], [2, 2, 2])
        self.executes = False
        nursery.make_ready()
        self.assertTrue(ask("3"), "the same packages, and nothing had to run")
        nursery.make_ready()
        self.given = {"n": 2}
        self.assertFalse(ask("3"), "it was given another value")
        nursery.make_ready()
        nursery.close()
        self.assertEqual([session.is_closed for _, _, session in self.made], [False, True, True, False, True, True])
        shared = Nursery()  # editions are given other values
        for _ in range(2):
            self.assertFalse(self.asked(shared, trace("1"), language="r"))
            shared.make_ready()
        self.assertEqual(len(self.made), 6)

    def test_who_cannot_be_forked_is_not_asked_again(self) -> None:
        nursery, self.can_fork = Nursery(), False
        self.assertEqual([self.asked(nursery, trace("1")) for _ in range(4)], [False] * 4)
        self.assertEqual([session.is_closed for _, _, session in self.made], [True])


if __name__ == "__main__":
    unittest.main()

"""The state of a page between two chunks: what traces and stale chunks do to it, and what is read of it."""

import unittest
from pathlib import Path
from typing import Any

from wornpage.plan.state import PENDING, State
from wornpage.store.trace import Bound, Provider, Read, Trace, last_of

BLOB = Provider(blob="b")
LIVE = Provider(live=True)


def trace(run: str = "r", reads: tuple[Read, ...] = (), **more: Any) -> Trace:
    return Trace("a", "key", "layout", run, 0.1, reads, **more)


def bound(name: str, provider: Provider = BLOB, **more: Any) -> dict[str, Bound]:
    return {name: Bound(f"print of {name}", provider, **more)}


class Moving(unittest.TestCase):
    def setUp(self) -> None:
        self.state = State(Path("/page"), {}, None, {"a": "layout"})

    def now(self, kind: str, name: str = "") -> str:
        return self.state.seen("python").now((kind, name))

    def test_what_is_left_behind_hangs_on_all_that_was_read(self) -> None:
        found = []
        for value in ("one", "two", "one"):
            self.state = State(Path("/page"), {}, None, {})
            self.state.apply(trace(reads=(Read("name", "v", value),), effects="it changed json.dumps.x"), 0)
            found.append(self.now("effects"))
        self.assertEqual(found[0], found[2])
        self.assertEqual(len({"", *found}), 3)

    def test_imports_of_the_projects_modules_are_told_by_what_those_are(self) -> None:
        self.state.apply(trace(effects="it imported lib, a module of the project", modules={"lib": "as it is"}), 0)
        self.assertEqual(self.now("effects"), "")
        self.assertEqual(self.state.world("python").modules, {"lib": "as it is"})

    def test_a_stale_chunk_makes_stale_what_hangs_on_it(self) -> None:
        self.state.apply(trace(names=bound("x"), written=(("o.txt", "h"),)), 0)
        before = self.now("name", "x"), self.now("effects")
        self.state.expect(
            "a", last_of(trace(names=bound("x"), written=(("o.txt", "h"),), effects="it changed json")), 1
        )
        self.assertTrue(self.now("name", "x").startswith(PENDING))
        self.assertNotEqual((self.now("name", "x"), self.now("effects")), before)
        self.assertEqual(self.state.files["o.txt"], (f"{PENDING}a", 1))

    def test_who_holds_a_name_with_others_is_read(self) -> None:
        told = {}
        for case, more in {
            "alone": {},
            "outside": {"outside": True},
            "together": {"group": ("x", "y"), "pattern": "p"},
        }.items():
            self.state = State(Path("/page"), {}, None, {})
            names = bound("x", **more)
            self.state.apply(trace(names=names | (bound("y", **more) if "group" in more else {})), 0)
            told[case] = self.now("sharing", "x")
        self.assertEqual(len(set(told.values())), 3)
        self.assertEqual(self.now("sharing", "none"), "absent")

    def test_live_names_need_all_their_writers_and_others_the_last(self) -> None:
        read = (Read("name", "x", "p"),)
        self.state.apply(trace("1", names=bound("x", LIVE)), 0)
        self.state.apply(trace("2", read, names=bound("x", LIVE)), 1)
        self.assertEqual(self.state.world("python").names["x"].writers, (0, 1))
        self.state.apply(trace("3", read, names=bound("x")), 2)
        self.assertEqual(self.state.world("python").names["x"].writers, (2,))

    def test_names_go_and_come_in_order(self) -> None:
        self.state.apply(trace(names=bound("x") | bound("y")), 0)
        self.state.apply(trace(names=bound("x"), anew=("x",)), 1)
        self.assertEqual(list(self.state.world("python").names), ["y", "x"])
        self.state.apply(trace(deleted=("y",)), 2)
        self.assertEqual(list(self.state.world("python").names), ["x"])

    def test_settings_are_put_back_and_languages_have_worlds_of_their_own(self) -> None:
        self.state.apply(trace(ambient={"zone": "'UTC'", "umask": "7"}), 0)
        self.state.apply(trace(ambient={"zone": ""}), 1)
        self.assertEqual(self.state.world("python").ambient, {"umask": "7"})
        self.state.apply(trace(names=bound("x"), language="abacus"), 2)
        self.assertEqual((list(self.state.world("python").names), list(self.state.world("abacus").names)), ([], ["x"]))

    def test_a_copy_goes_its_own_way(self) -> None:
        self.state.apply(trace(names=bound("x")), 0)
        other = self.state.copy()
        other.apply(trace(names=bound("y"), written=(("o", "h"),), effects="it changed json"), 1)
        self.assertEqual(
            (list(self.state.world("python").names), self.state.files, self.now("effects")), (["x"], {}, "")
        )


if __name__ == "__main__":
    unittest.main()

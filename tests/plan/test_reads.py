"""Kinds of reads, each alone: what is found, what it is now, how a change is said."""

import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

from wornpage.plan.reads import KINDS, kind_of, kinds
from wornpage.plan.sight import Sight
from wornpage.plan.state import PENDING, State
from wornpage.plan.traces import reads_in
from wornpage.session.told import Found
from wornpage.store.trace import Bound, Last, Provider, Read, Trace


def bound(print_: str, **more: object) -> Bound:
    return Bound(print_, Provider(blob="b"), **more)  # type: ignore[arg-type]


def trace(run: str, names: dict[str, Bound], **more: object) -> Trace:
    return Trace(run, "key", "", run, 0.0, (), names, **more)  # type: ignore[arg-type]


class Kinds(unittest.TestCase):
    def setUp(self) -> None:
        place = TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name)
        (self.folder / "a.txt").write_text("1")
        self.state = State(self.folder, {"damp-above": 60}, None, {"load": "l"})
        self.state.apply(
            trace(
                "r1",
                {
                    "a": bound("pa"),
                    "b": bound("pb", group=("b", "c"), pattern="x"),
                    "c": bound("pc", group=("b", "c"), pattern="x"),
                },
            ),
            0,
        )

    def test_each_file_has_a_kind_of_its_name(self) -> None:
        self.assertEqual(tuple(kind.name for kind in kinds()), KINDS)
        self.assertIsNone(kind_of("nothing"))
        self.assertEqual(
            {kind.name for kind in kinds() if kind.outside},
            {
                "database",
                "entry",
                "environment",
                "file",
                "glob",
                "library",
                "listing",
                "matching",
                "package",
                "program",
                "repository",
                "rights",
                "source",
                "times",
            },
        )

    def test_names_presence_order_and_sharing(self) -> None:
        found = Found(reads=("a", "b"), absent=("z",), present=("c",), listed=True, sharing=("b",))
        here = self.state.seen("python")
        told = {(one.kind, one.name): one.value for one in reads_in(found, here)}
        self.assertEqual(told["name", "a"], "pa")
        self.assertEqual((told["name", "z"], told["presence", "c"]), ("absent", "there"))
        before = (told["names", ""], told["sharing", "b"])
        self.state.apply(trace("r2", {"a": bound("other")}, deleted=("c",)), 1)
        after = self.state.seen("python")
        self.assertEqual([after.now(("name", "a")), after.now(("presence", "c"))], ["other", "absent"])
        self.assertNotEqual((after.now(("names", "")), after.now(("sharing", "b"))), before)

    def test_files_are_told_as_they_were_and_asked_as_they_are(self) -> None:
        here = self.state.seen("python", seed=7)
        found = Found(
            files={"file": {"a.txt": "as it was"}}, seed=True, given=("damp_above",), environment={"HOME": "=/h"}
        )
        told = {(one.kind, one.name): one.value for one in reads_in(found, here)}
        self.assertEqual(told["file", "a.txt"], "as it was")
        self.assertNotEqual(here.now(("file", "a.txt")), "as it was")
        self.assertEqual(
            (told["seed", ""], told["given", "damp-above"], told["environment", "HOME"]), ("7", "60", "=/h")
        )
        self.state.apply(trace("r2", {}, written=(("a.txt", "h"),), ambient={"env:HOME": "=/x"}), 1)
        later = self.state.seen("python")
        self.assertEqual((later.now(("file", "a.txt")), later.now(("environment", "HOME"))), ("h", "=/x"))

    def test_where_identity_is_asked_for_whoever_reads_a_name_may_see_how_it_is_held(self) -> None:
        plain = {one.kind for one in reads_in(Found(reads=("b",), names={"d": bound("d")}), self.state.seen("python"))}
        self.state.sight = Sight(identity=True)
        asked = {one.kind for one in reads_in(Found(reads=("b",)), self.state.seen("python"))}
        self.assertEqual(
            (plain & {"identity", "sharing", "sight"}, asked & {"identity", "sharing", "sight"}),
            ({"sight"}, {"identity", "sharing"}),
        )

    def test_changes_are_said_with_what_changed(self) -> None:
        here = self.state.seen("python")
        said = {
            ("name", "a", "1", "absent"): "not there any more", ("file", "a.txt", "1", "2"): "a.txt changed on 20", ("file", "x", "1", "absent"): "x is gone",
            ("package", "pandas", "2.0", "3.0"): "pandas 2.0 → 3.0", ("given", "damp-above", "1", "2"): "given.damp_above changed",
            ("environment", "HOME", "a", "b"): "variable HOME", ("glob", "*.csv", "a", "b"): "*.csv changed",
        }  # fmt: skip
        for (kind, name, before, now), words in said.items():
            with self.subTest(kind):
                known = kind_of(kind)
                assert known is not None
                self.assertIn(words, known.words(name, before, now, here))


class States(unittest.TestCase):
    def setUp(self) -> None:
        self.state = State(Path("/nowhere"), {}, None, {})

    def test_languages_have_worlds_of_their_own_and_share_files(self) -> None:
        self.state.apply(trace("r1", {"x": bound("1")}, written=(("f", "h"),)), 0)
        self.state.apply(trace("r2", {"x": bound("2")}, language="abacus"), 1)
        self.assertEqual([self.state.seen(one).now(("name", "x")) for one in ("python", "abacus")], ["1", "2"])
        self.assertEqual([self.state.seen(one).now(("file", "f")) for one in ("python", "abacus")], ["h", "h"])

    def test_what_is_live_needs_all_who_wrote_it(self) -> None:
        live = Bound("live:1", Provider(live=True))
        self.state.apply(trace("r1", {"g": live}), 0)
        self.state.apply(Trace("b", "k", "", "r2", 0.0, (Read("name", "g", "live:1"),), {"g": live}), 3)
        self.assertEqual(self.state.world("python").names["g"].writers, (0, 3))
        self.state.apply(trace("r3", {"g": bound("1")}), 4)
        self.assertEqual(self.state.world("python").names["g"].writers, (4,))

    def test_a_copy_goes_its_own_way(self) -> None:
        self.state.apply(trace("r1", {"x": bound("1")}), 0)
        copy = self.state.copy()
        copy.apply(trace("r2", {"x": bound("2")}, effects="it did", ambient={"cwd": "/x"}), 1)
        self.assertEqual(
            (self.state.seen("python").now(("name", "x")), self.state.seen("python").now(("ambient", "cwd"))),
            ("1", "first"),
        )
        self.assertNotEqual(copy.world("python").effects, "")

    def test_what_a_stale_chunk_will_write_is_pending(self) -> None:
        self.state.expect("load", Last("k", "r", 1.0, (), ("x",), (("f", "h"),)), 0)
        here = self.state.seen("python")
        self.assertEqual((here.now(("name", "x")), here.now(("file", "f"))), (f"{PENDING}load", f"{PENDING}load"))


if __name__ == "__main__":
    unittest.main()

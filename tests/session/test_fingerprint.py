"""Fingerprints: equal only if nothing could tell two values apart; and values come back as they were."""

import sys
import unittest
from collections import Counter, OrderedDict, defaultdict, deque
from decimal import Decimal
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory
from types import MappingProxyType
from typing import Any

import numpy as np
import pandas as pd
from hypothesis import given, settings
from hypothesis import strategies as st

from wornpage.session.python.atoms import NoFingerprint
from wornpage.session.python.fingerprint import fingerprint, is_interned, is_live
from wornpage.session.python.keeping import CannotKeep, bring_back, keep
from wornpage.session.python.sharing import pattern, reach
from wornpage.store.blobs import Blobs

plain = st.recursive(
    st.none()
    | st.booleans()
    | st.integers()
    | st.floats(allow_nan=False)
    | st.text(max_size=6)
    | st.binary(max_size=6),
    lambda inner: (
        st.lists(inner, max_size=4) | st.tuples(inner, inner) | st.dictionaries(st.text(max_size=3), inner, max_size=3)
    ),
    max_leaves=12,
)


def page_class(code: str) -> Any:
    """Something that a page defines."""
    scope: dict[str, Any] = {"__name__": "__main__"}
    exec(compile(code, "chunk:t", "exec"), scope)  # what a chunk does
    return scope


class Told(unittest.TestCase):
    """Different values have different fingerprints."""

    def test_what_compares_equal_and_is_not(self) -> None:
        a = np.arange(12.0).reshape(3, 4)
        frame = pd.DataFrame({"a": [1.0, 2.0], "b": ["x", "y"]})
        named = frame.copy()
        named.columns.name = "n"
        attrs = frame.copy()
        attrs.attrs["k"] = 1
        shared: list[Any] = [[1]]
        pairs = [
            (1, 1.0), (1, True), (0.0, -0.0), (Decimal("1.0"), Decimal("1.00")), ("1", b"1"), ([1], (1,)), ({1: 2}, OrderedDict({1: 2})),
            ({"a": 1, "b": 2}, {"b": 2, "a": 1}), (a, a.T.copy().T), (a[:, 1], a[:, 1].copy()), (a, a.astype("f4")), (frame, named), (frame, attrs),
            (frame, frame.astype({"a": "int64"})), (frame.iloc[::1], frame.iloc[::-1]), (defaultdict(list), defaultdict(int)),
            ([shared[0], shared[0]], [[1], [1]]), (pd.Categorical(["a"]), pd.Categorical(["a"], ["a", "b"])), (deque([1], 3), deque([1])),
            (pd.Timestamp("2026-01-01"), pd.Timestamp("2026-01-01", tz="UTC")), (np.float64(1), 1.0), (Counter("ab"), {"a": 1, "b": 1}),
        ]  # fmt: skip
        for one, other in pairs:
            with self.subTest(f"{one!r} and {other!r}"):
                self.assertNotEqual(fingerprint(one), fingerprint(other))

    def test_functions_by_what_they_do(self) -> None:
        def made(code: str) -> Any:
            return page_class(code)["f"]

        first = made("def f(x, y=1):\n    return x + y")
        self.assertEqual(
            fingerprint(first), fingerprint(made("# words\n\ndef f(x, y=1):\n    # more\n    return x + y"))
        )
        others = (
            "def f(x, y=2):\n    return x + y",
            "def f(x, y=1):\n    return x - y",
            "def f(x, *, y=1):\n    return x + y",
            "f = lambda x, y=1: x + y",
        )
        for code in others:
            self.assertNotEqual(fingerprint(first), fingerprint(made(code)), code)
        counted = made("def f(x, y=1):\n    return x + y\nf.count = 1")
        self.assertNotEqual(fingerprint(first), fingerprint(counted))
        closures = [made(f"def make(n):\n    return lambda: n\nf = make({n})") for n in (1, 2, 1)]
        self.assertNotEqual(fingerprint(closures[0]), fingerprint(closures[1]))
        self.assertEqual(fingerprint(closures[0]), fingerprint(closures[2]))

    def test_classes_and_instances_by_what_they_hold(self) -> None:
        def made(code: str, name: str = "v") -> Any:
            return page_class(code)[name]

        base = "class C:\n    k = 1\n    def m(self):\n        return self.x\nv = C()\nv.x = {}"
        self.assertEqual(fingerprint(made(base.format(1))), fingerprint(made(base.format(1))))
        self.assertNotEqual(fingerprint(made(base.format(1))), fingerprint(made(base.format(2))))
        self.assertNotEqual(
            fingerprint(made(base.format(1))), fingerprint(made(base.format(1).replace("k = 1", "k = 2")))
        )
        self.assertNotEqual(
            fingerprint(made(base.format(1), "C")), fingerprint(made(base.format(1).replace("self.x", "self.y"), "C"))
        )

    def test_what_cannot_be_compared_has_none(self) -> None:
        hooks = page_class(
            "class H:\n    def __reduce__(self):\n        return int, ()\nh = H()\nclass L(list):\n    pass\nl = L()"
        )
        live = [
            iter([1]),
            (i for i in ()),
            Path(__file__).open(encoding="utf-8"),  # noqa: SIM115 - closed below
            memoryview(b""),
            hooks["h"],
            hooks["l"],
            map(str, []),
        ]
        live[2].close()
        for value in live:
            with self.subTest(type(value).__name__), self.assertRaises(NoFingerprint):
                fingerprint([value])
        self.assertTrue(is_live(iter([])))
        self.assertFalse(is_live([]))

    def test_loops_are_no_trouble(self) -> None:
        loop: list[Any] = []
        loop.append(loop)
        self.assertEqual(fingerprint(loop), fingerprint(loop))

    @settings(max_examples=80, deadline=None)
    @given(plain, plain)
    def test_equal_fingerprints_mean_equal_values(self, one: Any, other: Any) -> None:
        if fingerprint(one) == fingerprint(other):
            self.assertEqual((repr(one), type(one)), (repr(other), type(other)))

    def test_an_interned_word_is_told_without_touching_it(self) -> None:
        word = "".join(["wo", "rn pa", "ge"])
        self.assertFalse(is_interned(word))
        self.assertFalse(is_interned(word))
        self.assertTrue(is_interned(sys.intern(word)))


class Kept(unittest.TestCase):
    """What is kept comes back exactly, or is not kept."""

    def setUp(self) -> None:
        place = TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.blobs = Blobs(str(Path(place.name) / "blobs"))

    def there_and_back(self, **values: Any) -> dict[str, Any]:
        prints = {name: fingerprint(value) for name, value in values.items()}
        return bring_back(keep(values, prints, {}, self.blobs), lambda name: values[name], self.blobs)

    @settings(max_examples=60, deadline=None)
    @given(plain)
    def test_plain_values(self, value: Any) -> None:
        self.assertEqual(fingerprint(self.there_and_back(v=value)["v"]), fingerprint(value))

    def test_arrays_and_frames_with_their_layout(self) -> None:
        a = np.random.default_rng(1).normal(size=(40, 6))
        frame = pd.DataFrame(a, columns=list("abcdef"))
        dated = frame.assign(
            day=pd.date_range("2026-01-01", periods=40), kind=pd.Categorical(["x", "y"] * 20), word="w"
        )
        for value in (
            a,
            a.T,
            a[::2, 1],
            a[:, ::-1],
            frame.iloc[::2],
            frame[["a", "f"]],
            dated,
            dated.set_index(["kind", "day"]),
            frame.T,
            a > 0,
        ):
            back = self.there_and_back(v=value)["v"]
            self.assertEqual(fingerprint(back), fingerprint(value))
            if isinstance(value, np.ndarray):
                self.assertEqual(back.strides, value.strides)
            else:
                self.assertTrue(back.equals(value))

    def test_what_two_names_share_stays_shared(self) -> None:
        inner = [1]
        back = self.there_and_back(a={"k": inner}, b=inner)
        self.assertIs(back["a"]["k"], back["b"])

    def test_what_would_not_come_back_is_not_kept(self) -> None:
        words = {f"w{i * 37 % 101}" for i in range(60)} - {f"w{i}" for i in range(30)}
        shuffled = set(words)
        for word in sorted(words):
            shuffled.discard(word)
            shuffled.add(word)
        whole = np.arange(1e5)
        for name, values in {
            "a small part of something large": {"v": whole, "w": whole[2:5]},
            "a page's function": {"f": page_class("def f(): pass")["f"]},
        }.items():
            with self.subTest(name), self.assertRaises(CannotKeep):
                keep(values, {n: fingerprint(v) for n, v in values.items()}, {}, self.blobs)

    def test_large_values_are_written_aside_and_settle(self) -> None:
        blobs = Blobs(self.blobs.folder, in_background=True)
        address = blobs.put(np.arange(3_000_000.0).data)
        blobs.settle()
        self.assertEqual(len(blobs.get(address)), 24_000_000)

    def test_a_blob_that_is_damaged_or_gone_is_missing(self) -> None:
        address = self.blobs.put(b"some bytes")
        Path(self.blobs.path(address)).write_bytes(b"some bytez")
        with self.assertRaises(KeyError):
            self.blobs.get(address)
        self.assertFalse(self.blobs.has(address))


class Holder:
    def __init__(self, held: Any) -> None:
        self.held = held


class Shared(unittest.TestCase):
    """Who reaches what."""

    def test_reach_finds_what_can_change(self) -> None:
        inner: list[Any] = [1, 2]
        outer = {"k": (inner, "word", 3)}
        a, frame = np.arange(6.0), pd.DataFrame({"x": [1.0, 2.0], "y": [inner, "w"]})
        both = [
            (outer, inner), (inner.append, inner), (partial(print, inner), inner), (iter(inner), inner), (outer.items(), outer),
            (MappingProxyType(outer), outer), (Holder(inner), inner),
            (map(str, inner), inner), ((x for x in inner), inner), (a, a[2:4]), (a.flat, a), (memoryview(a), a),
            (frame, inner), (frame, frame["x"].to_numpy()), (frame.groupby("x"), frame), (deque([inner]), inner), ([frame], frame),
        ]  # fmt: skip
        for one, other in both:
            with self.subTest(type(one).__name__):
                self.assertTrue(reach(one).meets(reach(other)))
        plain_frame = pd.DataFrame({"x": [1.0, 2.0], "y": [3, 4]})
        for one, other in (
            ([1, 2], [1, 2]),
            (a, a.copy()),
            (plain_frame, plain_frame.copy()),
            (plain_frame, plain_frame[["x"]]),
            ("w", ["w"]),
        ):
            with self.subTest(type(one).__name__):
                self.assertFalse(reach(one).meets(reach(other)))

    def test_a_pattern_only_where_something_is_reached_twice(self) -> None:
        inner: list[Any] = []
        self.assertEqual(pattern([[], []]), "")
        self.assertNotEqual(pattern([inner, inner]), "")
        self.assertNotEqual(pattern([inner, inner, []]), pattern([[], inner, inner]))


class Caches(unittest.TestCase):
    def test_what_a_library_only_remembers_is_no_content(self) -> None:
        import networkx as nx

        graph = nx.path_graph(3)
        before = fingerprint(graph).partition("+")[0]  # behind it stands who holds what twice, as views do
        self.assertEqual((list(graph.nodes), graph.degree[1], len(graph.edges)), ([0, 1, 2], 2, 2))
        self.assertEqual(fingerprint(graph).partition("+")[0], before)
        graph.nodes[1]["room"] = "Quay"
        self.assertNotEqual(fingerprint(graph).partition("+")[0], before)

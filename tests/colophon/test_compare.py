"""One record against another, told in words."""

import unittest
from typing import Any

from wornpage.colophon.compare import differences


def record(**more: Any) -> dict[str, Any]:
    """A record of a pressing of a small page."""
    chunk = {"label": "load", "seed": "", "shown": [{"kind": "output", "digest": "d", "words": "a\nb\nc"}]}
    plain = {
        "worn": "1", "python": "3.11", "system": "Linux", "page": "h", "given": {"n": "1"}, "packages": {"numpy": "2.0"}, "data": {"d.csv": "x"}, "texts": {},
        "settings": {}, "marks": [{"expression": "n", "value": "whole 1", "seed": ""}], "chunks": [chunk], "weaknesses": [],
    }  # fmt: skip
    return {**plain, **more}


def shown(*words: str, label: str = "load", seed: str = "", kind: str = "output") -> dict[str, Any]:
    return {"label": label, "seed": seed, "shown": [{"kind": kind, "digest": one, "words": one} for one in words]}


class Differences(unittest.TestCase):
    def test_what_agrees_says_nothing(self) -> None:
        self.assertEqual(differences(record(), record(weaknesses=["reads the clock"])), [])
        self.assertEqual(differences({}, {}), [])

    def test_facts_and_tables_tell_before_and_after(self) -> None:
        for more, said in (
            ({"python": "3.12"}, "Python: 3.11 → 3.12"), ({"packages": {"numpy": "2.1"}}, "library numpy: 2.0 → 2.1"), ({"packages": {}}, "library numpy: 2.0 → not there"),
            ({"data": {"d.csv": "x", "e.csv": "y"}}, "data e.csv: not there → y"), ({"given": {"n": "2"}}, "given n: 1 → 2"), ({"settings": {"seed": "3"}}, "setting seed: not there → 3"),
            ({"texts": {"part.md": "h"}}, "inserted file part.md: not there → h"),
        ):  # fmt: skip
            self.assertEqual(differences(record(), record(**more)), [said])

    def test_marks(self) -> None:
        def mark(expression: str = "n", value: str = "whole 1", seed: str = "") -> dict[str, str]:
            return {"expression": expression, "value": value, "seed": seed}

        for marks, said in (
            ([mark(value="whole 2")], "value mark `n`: whole 1 → whole 2"), ([mark(seed="5")], "value mark `n`: its seed: none → 5"), ([mark("m")], "value mark: n → m"),
            ([], "value mark: n → none"), ([mark(), mark("m")], "value mark: none → m"),
        ):  # fmt: skip
            self.assertEqual(differences(record(), record(marks=marks)), [said])

    def test_chunks_tell_what_they_show_otherwise(self) -> None:
        before = record(chunks=[shown("a\nb\nc")])
        ((line),) = differences(before, record(chunks=[shown("a\nx\nc")]))
        self.assertEqual(line, "chunk `load`: its output differs\n    -b\n    +x")
        for chunks, said in (
            ([shown("a\nb\nc", "more")], "chunk `load`: shows one output more"), ([shown()], "chunk `load`: shows one output less"), ([], "chunk `load`: is not there any more"),
            ([shown("a\nb\nc"), shown("x", label="plot")], "chunk `plot`: is new"), ([shown("a\nb\nc", seed="7")], "chunk `load`: its seed: none → 7"),
        ):  # fmt: skip
            self.assertEqual(differences(before, record(chunks=chunks)), [said])

    def test_long_differences_are_cut(self) -> None:
        ((line),) = differences(
            record(chunks=[shown("\n".join(map(str, range(50))))]), record(chunks=[shown("x" * 900)])
        )
        self.assertLessEqual(line.count("\n"), 8)
        self.assertLess(max(map(len, line.split("\n"))), 170)


if __name__ == "__main__":
    unittest.main()

"""Numbers of dictionaries: as long as one stays, so does the dictionary."""

import unittest
from collections.abc import Callable
from types import ModuleType
from typing import Any
from unittest.mock import patch

from hypothesis import given, settings
from hypothesis import strategies as st

from wornpage.session.python import versions
from wornpage.session.python.versions import Versions, differing

NAMES = st.sampled_from("abc")
ACTS: tuple[tuple[str, Callable[[dict[str, Any], str, object], object]], ...] = (
    ("put", lambda table, name, value: table.__setitem__(name, value)),
    ("take", lambda table, name, value: table.pop(name, None)),
    ("take the last", lambda table, name, value: table.popitem() if table else None),
    ("put if it is not there", lambda table, name, value: table.setdefault(name, value)),
    ("put several", lambda table, name, value: table.update({name: value, "z": value})),
    ("empty", lambda table, name, value: table.clear()),
    ("run code", lambda table, name, value: exec(f"{name} = 'code'", table)),
    ("look", lambda table, name, value: (table.get(name), list(table.items()), name in table, dict(table))),
)


class Numbers(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.tuples(st.sampled_from(ACTS), NAMES, st.integers(0, 2)), max_size=20))
    def test_a_number_that_stays_says_that_nothing_has_changed(self, acts: list[Any]) -> None:
        made = ModuleType("made")
        table = vars(made)
        numbers = Versions([table])
        for (_, act), name, value in acts:
            before, items = numbers.now(), list(table.items())
            act(table, name, value)
            if before is not None and numbers.now() == before:
                now = list(table.items())
                self.assertTrue(all(a is b for x, y in zip(items, now, strict=True) for a, b in zip(x, y, strict=True)))

    def test_those_of_classes_and_of_attributes_are_told_too(self) -> None:
        class Kind:
            area = 1

        one = Kind()
        for _ in range(50):  # warm code takes other ways
            one.size = 0  # type: ignore[attr-defined]
        numbers = Versions([Kind.__dict__, vars(one), {}])
        before = numbers.now()
        if before is None:
            self.skipTest("this Python numbers no changes")
        self.assertEqual(differing(numbers.now(), before), [])
        Kind.area = 2
        self.assertEqual(differing(numbers.now(), before), [0])
        one.size = 5  # type: ignore[attr-defined]
        self.assertEqual(differing(numbers.now(), before), [0, 1])

    def test_where_nobody_tells_it_is_not_known(self) -> None:
        with patch.object(versions, "are_told", lambda: False):
            numbers = Versions([{}])
        self.assertIsNone(numbers.now())
        self.assertIsNone(differing(None, None))
        self.assertIsNone(differing([1], None))

"""HTML of values: names of places in it do not hang on how often, or when, it was written."""

import unittest
import uuid

from hypothesis import given
from hypothesis import strategies as s

from wornpage.session.python.steady import steady


class Steady(unittest.TestCase):
    def test_running_numbers_begin_anew(self) -> None:
        made = '<style>#box-17 { }</style><div id="box-17"><input id="in-40"><label for="in-40">40</label><i id="in-41"></i></div>'
        wanted = '<style>#box-1 { }</style><div id="box-1"><input id="in-1"><label for="in-1">40</label><i id="in-2"></i></div>'
        self.assertEqual(steady(made), wanted)

    def test_other_words_stay(self) -> None:
        made = '<div id="box-3">box-30, mybox-3, box-3x and <a href="#box-3">box 3</a></div><p id="plain"></p>'
        self.assertEqual(
            steady(made),
            '<div id="box-1">box-30, mybox-3, box-3x and <a href="#box-1">box 3</a></div><p id="plain"></p>',
        )

    @given(s.lists(s.uuids(), min_size=1, max_size=4, unique=True))
    def test_random_names_are_counted(self, names: list[uuid.UUID]) -> None:
        made = "".join(f'<i id="part-{name}"></i><a href="#part-{name}">{name}</a>' for name in names)
        wanted = "".join(f'<i id="part-{n}"></i><a href="#part-{n}">{n}</a>' for n in range(1, len(names) + 1))
        self.assertEqual(steady(made), wanted)

    @given(s.lists(s.integers(1, 99), min_size=1, max_size=6))
    def test_what_is_steady_stays_so(self, numbers: list[int]) -> None:
        made = "".join(f'<i id="a{n}"></i><b id="b-{n}"></b>' for n in numbers)
        self.assertEqual(steady(steady(made)), steady(made))

"""Random numbers begin anew at each chunk, and nothing that we do meanwhile draws any."""

import random
import unittest
from collections.abc import Callable

import numpy as np
import polars as pl

from wornpage.session.python import seeds

DRAWS: dict[str, Callable[[], object]] = {
    "random": random.random,
    "numpy": lambda: float(np.random.rand()),
    "polars": lambda: pl.Series(range(20)).shuffle().to_list(),
}


class Seeds(unittest.TestCase):
    def setUp(self) -> None:
        state, of_numpy = random.getstate(), np.random.get_state()
        self.addCleanup(random.setstate, state)
        self.addCleanup(np.random.set_state, of_numpy)

    def test_what_is_drawn_hangs_on_the_seed_and_on_nothing_before(self) -> None:
        for name, draw in DRAWS.items():
            with self.subTest(name):
                seeds.plant(5)
                first = [draw(), draw()]
                seeds.plant(6)
                other = [draw(), draw()]
                draw()
                seeds.used()
                seeds.plant(5)
                self.assertEqual([draw(), draw()], first)
                self.assertNotEqual(other, first)
                self.assertNotEqual(first[0], first[1])

    def test_whether_any_was_drawn(self) -> None:
        seeds.plant(5)
        self.assertFalse(seeds.used())
        for name, draw in DRAWS.items():
            with self.subTest(name):
                seeds.plant(5)
                draw()
                self.assertTrue(seeds.used())

    def test_what_is_brought_in_meanwhile_changes_nothing(self) -> None:
        for name, draw in DRAWS.items():
            with self.subTest(name):
                seeds.plant(5)
                plain = [draw(), draw(), draw()]
                seeds.plant(5)
                begun = [draw()]
                with seeds.untouched():
                    random.random()
                    np.random.rand()
                begun.append(draw())
                with seeds.untouched():
                    pass
                self.assertEqual([*begun, draw()], plain)


if __name__ == "__main__":
    unittest.main()

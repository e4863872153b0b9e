"""Two hundred made-up pages keep the law; `make law N=2000` tries more of them."""

import os
import unittest
from concurrent.futures import ProcessPoolExecutor
from functools import partial

from tests.law.pages import Maker
from tests.law.trying import try_seed

COUNT = 200


class MadePages(unittest.TestCase):
    """Random pages and edits: partial against full."""

    def test_partial_runs_publish_what_full_runs_would(self) -> None:
        with ProcessPoolExecutor(os.cpu_count()) as pool:
            trials = list(pool.map(try_seed, range(COUNT), chunksize=4))
        faults = [f"python -m tests.law --show {trial.seed}: {trial.fault}" for trial in trials if trial.fault]
        self.assertEqual(faults, [])
        self.assertGreater(sum(trial.ahead for trial in trials), 20)
        chances, needless = sum(trial.chances for trial in trials), sum(trial.needless for trial in trials)
        self.assertGreater(chances, 50)
        self.assertLessEqual(needless, chances // 50, [trial.which for trial in trials if trial.needless])

    def test_whoever_has_only_what_is_shared_publishes_the_same(self) -> None:
        with ProcessPoolExecutor(os.cpu_count()) as pool:
            trials = list(pool.map(partial(try_seed, team=True), range(7_000, 7_005)))
        self.assertEqual([f"{trial.seed}: {trial.fault}" for trial in trials if trial.fault], [])
        self.assertGreater(sum(trial.had for trial in trials), 10)

    def test_a_seed_makes_the_same_page_each_time(self) -> None:
        for seed in range(20):
            self.assertEqual([step.text for step in Maker(seed).steps()], [step.text for step in Maker(seed).steps()])

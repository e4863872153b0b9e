"""Ordinary pages that broke the law before keep it now."""

import unittest

from tests.law.ordinary import cases, tried


class Ordinary(unittest.TestCase):
    def test_what_broke_the_law_before_keeps_it(self) -> None:
        reports = tried(cases(kept=True))
        self.assertGreater(len(reports), 40)
        self.assertEqual([f"{report.name}: {broken}" for report in reports for broken in report.broken], [])

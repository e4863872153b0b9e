"""A short round of the fuzzer; `make fuzz` goes on for five minutes."""

import unittest

from tests.fuzz.__main__ import fuzz
from tests.fuzz.targets import TARGETS


class Fuzz(unittest.TestCase):
    """Whatever strangers write is read or told, and that at once."""

    def test_no_input_leads_to_a_fault_of_ours(self) -> None:
        found = fuzz(20, list(TARGETS), start=7)
        self.assertEqual(found.findings, {})
        self.assertEqual(set(found.tried), set(TARGETS))

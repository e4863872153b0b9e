"""Objects of which a library holds the one that counts: known by where they are held, kept and told so."""

import copy
import dataclasses
import datetime
import decimal
import math
import re
import tempfile
import unittest
from random import Random

import numpy as np

from wornpage.session.python import constants
from wornpage.session.python.fingerprint import fingerprint
from wornpage.session.python.keeping import bring_back, keep
from wornpage.store.blobs import Blobs


class Constants(unittest.TestCase):
    def again(self, value: object) -> object:
        """A value from the store."""
        with tempfile.TemporaryDirectory() as place:
            blobs = Blobs(place)
            made = keep({"v": value}, {"v": fingerprint(value)}, {}, blobs)
            return bring_back(made, {}.__getitem__, blobs)["v"]

    def test_the_very_object_comes_back(self) -> None:
        import random

        for value in (
            dataclasses.MISSING, datetime.timedelta.max, decimal.BasicContext, random._inst, np.dtype("f8"), re.compile("a+"),  # type: ignore[attr-defined]
            re.compile("(?i)a"), re.compile(b"a", re.DOTALL), datetime.UTC,
        ):  # fmt: skip
            with self.subTest(value):
                self.assertIs(self.again(value), value)
                held = self.again({"a": [value]})
                assert isinstance(held, dict)
                self.assertIs(held["a"][0], value)
        numbers = self.again([math.nan, np.nan, float("nan"), complex("nan")])
        assert isinstance(numbers, list)
        self.assertIs(numbers[0], math.nan)
        self.assertIs(numbers[1], np.nan)
        self.assertNotIn(numbers[2], (math.nan, np.nan))

    def test_a_copy_is_another_and_two_of_them_are_alike(self) -> None:
        for value in (decimal.BasicContext, np.dtype("f8")):
            one, other = copy.copy(value), copy.copy(value)
            if one is not value:
                self.assertNotEqual(fingerprint(value), fingerprint(one))
                self.assertEqual(fingerprint([one]), fingerprint([other]))
        own, mine = Random(1), Random(1)
        self.assertEqual(fingerprint(own), fingerprint(mine))
        self.assertIsNone(constants.place_of(own))
        self.assertNotEqual(fingerprint([np.nan]), fingerprint([math.nan]))
        self.assertNotEqual(fingerprint([np.nan, float("nan")]), fingerprint([float("nan"), np.nan]))

    def test_where_it_is_held(self) -> None:
        self.assertEqual(constants.place_of(datetime.timedelta.max), ("datetime", "timedelta.max"))
        self.assertEqual(constants.place_of(dataclasses.MISSING), ("dataclasses", "MISSING"))
        self.assertIsNone(constants.place_of(datetime.timedelta(1)))
        self.assertIs(constants.held_at("datetime", "timedelta.max"), datetime.timedelta.max)
        self.assertEqual([constants.dtype_as_told(one) for one in (np.dtype("f8"), 1)], ["<f8", ""])


if __name__ == "__main__":
    unittest.main()

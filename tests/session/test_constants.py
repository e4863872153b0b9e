"""Objects of which a library holds the one that counts: known by where they are held, kept and told so."""

import copy
import dataclasses
import datetime
import decimal
import io
import math
import pickle
import re
import tempfile
import unittest
from random import Random

import numpy as np

from wornpage.session.python import constants, sharing
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

    def test_a_byte_is_the_one_that_there_is_where_a_page_asks(self) -> None:
        sharing.count_atoms(True)
        self.addCleanup(sharing.count_atoms, False)
        one = b"abc"[:1]
        self.assertIs(self.again(one), one)
        other = io.BytesIO(b"a").read(1) if io.BytesIO(b"a").read(1) is not one else pickle.loads(pickle.dumps(one))
        found = self.again([other, one, other])
        assert isinstance(found, list)
        self.assertEqual([found[0] is one, found[1] is one, found[0] is found[2]], [False, True, True])

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

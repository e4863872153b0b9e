"""Arrays come back with the memory they look at: owned, shared with others, or a part of something larger."""

import unittest
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
import pandas as pd

from wornpage.session.python.atoms import NoFingerprint
from wornpage.session.python.fingerprint import fingerprint
from wornpage.session.python.keeping import CannotKeep, bring_back, keep
from wornpage.store.blobs import Blobs


def locked(array: Any) -> Any:
    """The array, not to be written to."""
    array.flags.writeable = False
    return array


class Arrays(unittest.TestCase):
    def setUp(self) -> None:
        place = TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.blobs = Blobs(place.name)

    def back(self, **group: Any) -> dict[str, Any]:
        """The same values from the store, which must look the same."""
        prints = {name: fingerprint(value) for name, value in group.items()}
        found = bring_back(keep(group, prints, group, self.blobs), group.__getitem__, self.blobs)
        self.assertEqual({name: fingerprint(value) for name, value in found.items()}, prints)
        return found

    def test_flags_and_base_are_as_they_were(self) -> None:
        numbers, things = np.arange(24.0), np.array([1, "a", None], dtype=object)
        records = np.zeros(4, dtype=[("x", "f8"), ("y", "i4")])
        arrays = {
            "owned": numbers, "column by column": np.ones((3, 4), order="F"), "reshaped": numbers.reshape(4, 6), "backwards": numbers[::-1],
            "turned": np.arange(24).reshape(2, 3, 4).transpose(1, 0, 2).copy(order="K"), "a field": records["y"], "records": records,
            "locked": locked(np.arange(3)), "things": things, "locked things": locked(things.copy()), "view of things": things[1:],
            "repeated": np.broadcast_to(np.arange(3.0), (4, 3)), "times": np.array(["2026-01-01"], "M8[D]"), "one": np.array(5.0),
            "none": np.zeros((0, 3)), "part": np.arange(1e5)[:7], "spread part": np.arange(1e5)[:70:10], "foreign": np.frombuffer(b"12345678", "u1"),
        }  # fmt: skip
        for words, array in arrays.items():
            with self.subTest(words):
                again = self.back(a=array)["a"]
                self.assertEqual(repr(again.flags), repr(array.flags))
                self.assertEqual((again.strides, again.base is None), (array.strides, array.base is None))
                self.assertEqual(again.tolist(), array.tolist())

    def test_views_of_one_array_stay_views_of_one_array(self) -> None:
        numbers = np.arange(100.0)
        found = self.back(all=numbers, training=numbers[:80], testing=numbers[80:], table=numbers.reshape(10, 10).T)
        found["testing"][-1] = -1
        self.assertEqual((found["all"][-1], found["table"][9, 9]), (-1, -1))
        self.assertIs(found["training"].base, found["all"])
        many = np.arange(1e5)
        with self.assertRaises(CannotKeep):  # so small a part is kept alone, and would be a stranger to the whole
            self.back(all=many, few=many[:3])

    def test_whether_memory_is_owned_is_told(self) -> None:
        numbers = np.arange(6.0)
        prints = [
            fingerprint(one) for one in (numbers, numbers.reshape(6), numbers[:], np.frombuffer(numbers.tobytes()))
        ]
        self.assertEqual(len({prints[0], prints[1], prints[3]}), 3)
        self.assertEqual(prints[1], prints[2])
        with self.assertRaises(NoFingerprint):
            fingerprint(locked(np.ma.array([1, 2], mask=[0, 1])))

    def test_inside_a_frame_only_content_counts(self) -> None:
        frame = pd.DataFrame({"x": [1.0, 2.0, 3.0], "y": [4.0, 5.0, 6.0], "word": ["a", "b", None]})
        self.assertEqual(fingerprint(frame["x"]), fingerprint(frame.drop(columns="y")["x"]))
        again = self.back(frame=frame, column=frame["x"])
        pd.testing.assert_frame_equal(again["frame"], frame)
        again["frame"].loc[0, "x"] = 9.0
        self.assertEqual(again["frame"]["x"].tolist(), [9.0, 2.0, 3.0])


if __name__ == "__main__":
    unittest.main()

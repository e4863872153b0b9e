"""Lines between the processes of editions: whatever is in them comes out as it went in."""

import datetime
import unittest

from hypothesis import given
from hypothesis import strategies as st

from wornpage.editions.work import Job, Task
from wornpage.press.wire import unwired, wired

LETTERS = st.text(st.characters(), max_size=20)  # halves of letters too


class Wire(unittest.TestCase):
    @given(LETTERS, st.dictionaries(LETTERS, LETTERS | st.integers() | st.booleans() | st.lists(LETTERS), max_size=4))
    def test_everything_comes_out_as_it_went_in(self, name: str, values: dict[str, object]) -> None:
        task = Task(name, values)
        line = wired(task)
        self.assertNotIn(b"\n", line)
        self.assertEqual(unwired(line, Task), task)

    def test_days_are_told_as_they_are_written(self) -> None:
        self.assertEqual(
            unwired(wired(Task("a", {"day": datetime.date(2026, 3, 1)})), Task).given, {"day": "2026-03-01"}
        )
        job = Job("/p.md", "p.md", "h", ("html",), "/out", "2026-03-01", given={"n": 1.5})
        self.assertEqual(unwired(wired(job), Job), job)

    def test_what_is_none_is_told(self) -> None:
        for line in (b"", b"{", b"[]", b'{"edition": 3}', b'{"edition": "a"}'):
            with self.subTest(line), self.assertRaises(ValueError):
                unwired(line, Task)

"""Every page that is kept here is pressed to all outputs, and shows what it must."""

import os
import unittest
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor
from multiprocessing import get_context
from typing import ClassVar

from tests.pages.reading import Seen, faults, names, pressed


class Pages(unittest.TestCase):
    """One test a page, below."""

    pool: ClassVar[ProcessPoolExecutor]
    made: ClassVar[dict[str, Future[Seen]]]

    @classmethod
    def setUpClass(cls) -> None:
        # New processes: one that is forked from a process with threads may wait for them for ever.
        cls.pool = ProcessPoolExecutor(os.cpu_count(), mp_context=get_context("spawn"))
        cls.made = {name: cls.pool.submit(pressed, name) for name in names()}

    @classmethod
    def tearDownClass(cls) -> None:
        cls.pool.shutdown(cancel_futures=True)


def _test_of(name: str) -> Callable[[Pages], None]:
    def test(self: Pages) -> None:
        self.assertEqual(list(faults(name, self.made[name].result(300))), [])

    test.__doc__ = name
    return test


for _name in names():
    setattr(Pages, "test_" + "".join(sign if sign.isalnum() else "_" for sign in _name), _test_of(_name))

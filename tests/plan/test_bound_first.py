"""Names that code gives a value before it asks for one, held against Python itself."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from wornpage.plan.bound_first import bound_first

PIECES = (
    "a = 1", "b = a", "a, b = 2, 3", "c = [a for a in (1, 2)]", "for a in range(2):\n    c = a", "if c:\n    a = 1\nelse:\n    a = 2",
    "if c:\n    b = 1", "def b(a):\n    return a", "def c():\n    return b", "with held() as a:\n    b = 5", "b += 1", "del c",
    "try:\n    a = c\nexcept NameError:\n    b = 1", "while not b:\n    b = 1", "class a:\n    k = c", "import math as b",
)  # fmt: skip


class Asked(dict[str, object]):
    """Names as they were left above; notes which of them are asked for before they are bound."""

    def __init__(self) -> None:
        super().__init__(a=0, b=0, c=0)
        self.asked: set[str] = set()
        self.bound: set[str] = set()

    def __getitem__(self, name: str) -> object:
        if name in "abc" and name not in self.bound:
            self.asked.add(name)
        return super().__getitem__(name)

    def __setitem__(self, name: str, value: object) -> None:
        self.bound.add(name)
        super().__setitem__(name, value)

    def __delitem__(self, name: str) -> None:
        if name not in self.bound:
            self.asked.add(name)
        super().__delitem__(name)


class BoundFirst(unittest.TestCase):
    @settings(max_examples=200, deadline=None)
    @given(st.lists(st.sampled_from(PIECES), min_size=1, max_size=5))
    def test_no_such_name_is_asked_for_before_it_is_bound(self, pieces: list[str]) -> None:
        code = "\n".join(pieces)
        names = Asked()
        names["held"] = __import__("contextlib").nullcontext
        try:
            exec(compile(code, "code", "exec"), {}, names)
        except (NameError, TypeError):
            return  # what came before has been seen
        finally:
            self.assertEqual(bound_first(code) & names.asked, set(), code)

    def test_plots_begin_with_names_of_their_own(self) -> None:
        code = "fig, axes = plt.subplots(1, 2)\nfor ax, one in zip(axes, data):\n    ax.plot(one)\nfig.suptitle(title)"
        self.assertEqual(bound_first(code), {"fig", "axes", "ax", "one"})
        self.assertEqual(bound_first("ax.plot(x)\nax = 3"), frozenset())
        self.assertEqual(bound_first("no python"), frozenset())

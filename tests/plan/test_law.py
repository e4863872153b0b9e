"""The law: what a partial run publishes is byte for byte what a full run would, and only what must run runs."""

import json
import unittest
from pathlib import Path

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.hazards import try_case

CASES = json.loads((Path(__file__).parent / "cases.json").read_text(encoding="utf-8"))
NAMES = "abc"
PIECES = (
    "{x} = {n}",
    "{x} = [{n}, {m}]",
    "{x} = {y}",
    "{x} = ({y}, {n})",
    "{y}.append({n})",
    "{x} = list({y}) if isinstance({y}, (list, tuple)) else [{y}]",
    "def f(v={n}):\n    return (v, {y})",
    "print(f())",
    "print({x}, {y})",
    "print(sorted(n for n in globals() if n in 'abc'))",
    "del {x}",
    "try:\n    {x} += [{n}]\nexcept TypeError:\n    {x} = [{n}]",
    "{x} = iter([{n}, {m}, {n}])",
    "print(next({y}, None) if hasattr({y}, '__next__') else {y})",
    "open('f.txt', 'w').write(str({n}))",
    "print(open('f.txt').read())",
    "import random\n{x} = random.random()",
    "class C:\n    k = {n}\n{x} = C()",
    "C.k = {m}",
    "{x} = lambda: {y}",
    "print({y}() if callable({y}) else C.k)",
    "import os\nos.environ['WORN_TEST'] = str({n})",
    "import os\nprint(os.environ.get('WORN_TEST'))",
)
"""What chunks are made of; most go wrong now and then, which is a result like any other."""

chunk = st.builds(
    lambda piece, x, y, n, m: piece.format(x=x, y=y, n=n, m=m),
    st.sampled_from(PIECES), st.sampled_from(NAMES), st.sampled_from(NAMES), st.integers(0, 3), st.integers(0, 3),
)  # fmt: skip
page = st.lists(chunk, min_size=2, max_size=6)
edit = st.tuples(st.sampled_from(("change", "insert", "delete", "swap")), st.integers(0, 5), chunk)


def edited(codes: list[str], how: str, where: int, code: str) -> list[str]:
    """`codes` with one edit."""
    at = where % len(codes)
    made = list(codes)
    if how == "change":
        made[at] = code
    elif how == "insert":
        made.insert(at, code)
    elif how == "delete" and len(made) > 1:
        del made[at]
    elif how == "swap":
        made[at], made[at - 1] = made[at - 1], made[at]
    return made


def step(codes: list[str]) -> dict[str, object]:
    return {"chunks": [{"label": f"c{i}", "code": code, "may_fail": True} for i, code in enumerate(codes)]}


class Law(unittest.TestCase):
    """Partial against full, on cases chosen to break it and on random ones."""

    def test_cases_chosen_to_break_it(self) -> None:
        for case in CASES:
            with self.subTest(case["name"]):
                report = try_case(case)
                self.assertEqual((report.broken, report.missed, report.needless), ([], [], []))

    @settings(max_examples=12, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
    @given(page, st.lists(edit, min_size=1, max_size=3))
    def test_random_pages_and_edits(self, codes: list[str], edits: list[tuple[str, int, str]]) -> None:
        steps = [step(codes)]
        for how, where, code in edits:
            codes = edited(codes, how, where, code)
            steps.append(step(codes))
        report = try_case({"name": "random", "files": {}, "steps": steps})
        self.assertEqual(report.broken, [], json.dumps(steps, indent=1))

    @settings(max_examples=6, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
    @given(st.lists(st.integers(0, 9), min_size=3, max_size=5), st.integers(0, 4))
    def test_what_is_independent_does_not_run(self, numbers: list[int], where: int) -> None:
        def made(values: list[int]) -> dict[str, object]:
            return step([f"v{i} = {n}\nprint(v{i} * 2)" for i, n in enumerate(values)])

        at = where % len(numbers)
        second = made([n + 100 if i == at else n for i, n in enumerate(numbers)])
        others = [f"c{i}" for i in range(len(numbers)) if i != at]
        report = try_case(
            {
                "name": "independent",
                "files": {},
                "steps": [made(numbers), {**second, "must_run": [f"c{at}"], "may_reuse": others}],
            }
        )
        self.assertEqual((report.broken, report.missed, report.needless), ([], [], []))

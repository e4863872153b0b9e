"""What is wrong is found without running, in its place and under its rule; what is right is left in peace."""

from __future__ import annotations

import json
from importlib.resources import files
from pathlib import Path

from tests.support import FolderCase, worn
from wornpage.check import check_page
from wornpage.check.finding import rules
from wornpage.demo import PAGES, write_demo

WRONG = """\
---
title: A
given: {n: 1, m: 2}
---

# One

See {see nope}, [x](#nowhere), {cite a2000}. {= y} $\\nosuch$ $5 each, and not 10$

![](missing.png)

```python run #first
import datetme
z = later + 1
print(__import__, given.n, open("none.csv"))
```

```python #listed show=output
listed = 3
```

# One

```python run #second width=40cm
import matplotlib.pyplot as plt, datetime
later = datetime.datetime.now()
fig, ax = plt.subplots()
path = "/home/imke/data.csv"
x = "a very long line of code that goes on and on until no sheet of paper in the whole world can hold it"
```

```python run
if True
```

Fig. 1: a caption elsewhere
"""

RIGHT = [
    "a = [x for x in range(3) for y in range(x) if y]\nb = {k: v for k, v in zip(a, a)}",
    "def f(q, *r, s=1, **t):\n    u = q\n    def g(): return u + h()\n    return [g, r, s, t, later]\ndef h(): pass\nlater = 1",
    "class A:\n    n = 1\n    m = n + 1\n    def self_(self): return A",
    "try:\n    import nothing_there\nexcept ImportError:\n    nothing_there = None\nexcept* (ValueError) as e:\n    pass\n".replace(
        "except* (ValueError) as e:\n    pass\n", ""
    ),
    "import os.path as p, json\nfrom math import pi as number\np, json, number",
    "for i, (j, *k) in [(1, (2, 3))]:\n    i, j, k\nelse:\n    i\nwith open('a') as f: f\nif (w := 3): w",
    "match [1, 2]:\n    case [first, *rest]: first, rest\n    case {'a': one, **more}: one, more\n    case str() as whole: whole",
    "import pandas as pd\npd.DataFrame().to_csv('made.csv')\npd.read_csv('made.csv')\nopen('new.txt', 'w')\npd.read_csv(f'{1}.csv')\npd.read_csv('*.csv')\npd.read_csv('https://a.example/b.csv')",
    "from math import *\nsin(pi)",
    "exec('made = 1')\nmade",
    "def set_it():\n    global told\n    told = 1\nset_it()\ntold",
    "try:\n    1\nexcept Exception as error:\n    print(error)\nx: int = 1\nx += 1\ndel x\nlambda q, r=1: q + r",
]


class Checked(FolderCase):
    def found(self, text: str) -> list[tuple[str, int]]:
        """Rule and line of each finding."""
        path = self.write("page.md", text.encode())
        return [(one.rule, one.problem.span.line) for one in check_page(path, "page.md")]

    def test_each_rule_finds_what_it_is_for(self) -> None:
        found = self.found(WRONG)
        expected = [
            ("givens", 3), ("labels", 8), ("labels", 8), ("citations", 8), ("names", 8), ("formulas", 8), ("prices", 8), ("images", 10), ("alternative-text", 10),
            ("packages", 13), ("files", 15), ("listings", 18), ("headings", 22), ("alternative-text", 24), ("figure-sizes", 24), ("chance", 26),
            ("absolute-paths", 28), ("long-lines", 29), ("code", 33), ("captions", 36),
        ]  # fmt: skip
        self.assertEqual(sorted(found), sorted([*expected]))
        self.assertEqual({rule for rule, _ in found}, set(rules()) - {"typed-numbers"}, "which must have been pressed")
        closed = WRONG.replace("__import__, ", "")
        self.assertIn(("names", 14), self.found(closed), "`later` is written further down")

    def test_what_is_right_is_left_in_peace(self) -> None:
        for code in RIGHT:
            with self.subTest(code):
                self.assertEqual(self.found(f"```python run\n{code}\n```\n"), [])

    def test_names_are_known_where_a_mark_or_a_file_stands(self) -> None:
        self.write(
            "part.md",
            "---\ngiven: {size: 3}\n---\n\n{= room} {= size} {see plot}\n\n```python run #plot\nroom, size, other\n```\n",
        )
        page = "{= rooms}\n\n```python run\nrooms = [1]\n```\n\n{insert part.md for room in rooms}\n\n{see plot.1} {see plat.1} {= len(rooms)}\n"
        self.assertEqual(sorted(self.found(page)), [("labels", 9), ("names", 1), ("names", 8)])

    def test_a_label_stands_once(self) -> None:
        page = "$$ x $$\nLabel: one\n\n| a |\n|---|\n| 1 |\nCaption: A.\nLabel: one\n"
        self.assertEqual([rule for rule, _ in self.found(page)], ["labels"])

    def test_what_code_will_label_is_known_or_left_open(self) -> None:
        page = "{see one} {see two}\n\n```python run\npage.table({}, label='one')\n```\n"
        self.assertEqual(self.found(page), [("labels", 1)])
        self.assertEqual(self.found(page.replace("'one'", "f'{1}'")), [])

    def test_labels_that_code_of_another_language_gives(self) -> None:
        page = "{see one} {see two}\n\n```r run\npage$table(cars, label = 'one')  # label = 'two'\n```\n"
        self.assertEqual([rule for rule, line in self.found(page) if line == 1], ["labels"])
        self.assertEqual([one for one in self.found(page.replace("'one'", "paste0('o', 'ne')")) if one[1] == 1], [])
        drawn = "{see two}\n\n```python run\nplt = None\nplt.line([1], label=str(1))\n```\n"
        self.assertEqual(self.found(drawn), [("labels", 1)])

    def test_names_that_are_taken_over_must_have_been_written(self) -> None:
        chunks = [
            "```r run #a\nfirst <- 1; second <- 2\n```", "```python run #b uses='first, fist, third'\nown = 1\n```", "```r run #c\nthird <- 3\n```",
            "```python run #d uses='own, third'\nown\n```", "```r run\nassign(paste0('x'), 1)\n```", "```python run #e uses=x\nx\n```",
        ]  # fmt: skip
        path = self.write("page.md", "\n\n".join(chunks) + "\n")
        faults = [one.problem for one in check_page(path, "page.md")]
        self.assertEqual([one.span.line for one in faults], [5, 5, 13])
        for fault, words in zip(
            faults, ("Did you mean 'first'", "move that up", "without being taken over"), strict=True
        ):
            self.assertIn(words, str(fault))

    def test_how_grave_a_finding_is_can_be_set(self) -> None:
        page = (
            "---\ncheck: {labels: warning, headings: off, givens: error}\ngiven: {n: 1}\n---\n\n# A\n\n{see x}\n\n# A\n"
        )
        path = self.write("page.md", page)
        found = {one.rule: str(one.problem.severity) for one in check_page(path, "page.md")}
        self.assertEqual(found, {"labels": "warning", "givens": "error"})
        self.assertIn("'labels'", str(self.faults("---\ncheck: {lables: off}\n---\n")[0]))

    def test_the_demo_has_no_errors(self) -> None:
        write_demo(self.folder)
        for page in PAGES:
            self.assertEqual(
                [str(one) for one in check_page(self.folder / page, page) if one.problem.severity == "error"], []
            )
        self.assertTrue(files("wornpage.demo"))

    def test_the_command_speaks_to_people_editors_and_services(self) -> None:
        self.write("page.md", WRONG.encode())
        said = worn("check", "page.md", folder=self.folder)
        self.assertEqual(said.returncode, 1)
        self.assertRegex(said.stdout, r"(?m)^page\.md:8:5: error: nothing is labelled 'nope'.* \[labels\]$")
        data = json.loads(worn("check", "page.md", "--json", folder=self.folder).stdout)["findings"]
        self.assertEqual(len(data), len(said.stdout.splitlines()))
        log = json.loads(worn("check", "page.md", "--sarif", folder=self.folder).stdout)
        run = log["runs"][0]
        self.assertEqual(log["version"], "2.1.0")
        known = {rule["id"] for rule in run["tool"]["driver"]["rules"]}
        self.assertLessEqual({result["ruleId"] for result in run["results"]}, known)
        self.assertEqual(run["results"][0]["locations"][0]["physicalLocation"]["region"]["startLine"], 3)
        fine = self.write("fine.md", "# Fine\n")
        self.assertEqual(worn("check", Path(fine.name), folder=self.folder).returncode, 0)

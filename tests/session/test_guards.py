"""Statements that make a folder where there is none."""

import linecache
import unittest

from wornpage.session.python.guards import guarded_lines


class Guards(unittest.TestCase):
    def lines(self, code: str) -> list[int]:
        linecache.cache["chunk:it"] = (len(code), None, code.splitlines(keepends=True), "chunk:it")
        self.addCleanup(linecache.cache.pop, "chunk:it", None)
        return sorted(guarded_lines("chunk:it"))

    def test_a_folder_that_is_asked_for_is_made_and_nothing_else_is_done(self) -> None:
        for code in (
            "if not os.path.exists(place):\n    os.makedirs(place)",
            "if not os.path.isdir('out'):\n    os.mkdir('out')",
            "if not exists(p):\n    makedirs(p, exist_ok=True)",
            "if not out.exists():\n    out.mkdir(parents=True)",
            "if not (Path('a') / 'b').is_dir():\n    (Path('a') / 'b').mkdir()",
        ):
            self.assertEqual(self.lines(f"import os\n{code}\nprint(1)\n"), [2, 3], code)

    def test_whatever_else_depends_on_it_counts(self) -> None:
        for code in (
            "if not os.path.exists('out'):\n    os.makedirs('out')\n    print('new')",
            "if not os.path.exists('out'):\n    os.makedirs('out')\nelse:\n    print('old')",
            "if not os.path.exists('in'):\n    os.makedirs('out')",
            "if os.path.exists('out'):\n    os.makedirs('out')",
            "if not os.path.exists('out'):\n    made = os.makedirs('out')",
            "if not os.path.exists('out') and x:\n    os.makedirs('out')",
            "if not os.path.exists('out'\n",
        ):
            self.assertEqual(self.lines(code), [], code)
        self.assertEqual(guarded_lines("chunk:none"), frozenset())

"""What the map of the code says is so: its example works, and the places it names are there."""

import os
import re
import unittest
from pathlib import Path
from unittest import mock

from tests.support import FolderCase, worn

ROOT = Path(__file__).parent.parent
MAP = (ROOT / "docs/architecture.md").read_text(encoding="utf-8")


class Architecture(FolderCase):
    def test_the_example_is_a_whole_output(self) -> None:
        (example,) = re.findall(r"(?s)```python\n(.*?)```", MAP)
        self.write("site/gist.py", example.encode())
        self.write("site/gist-1.0.dist-info/entry_points.txt", "[wornpage.outputs]\ngist = gist:OUTPUT\n")
        self.write("p.md", "---\npress: {gist: {most: 2}}\n---\n\n# One\n\nSome *words*.\n\nMore.\n")
        with mock.patch.dict(os.environ, {"PYTHONPATH": str(self.folder / "site")}):
            done = worn("press", "p.md", "--as", "gist", folder=self.folder)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual((self.folder / "p.txt").read_text(), "One\n\nSome words.")

    def test_every_file_it_names_is_there(self) -> None:
        named = set(re.findall(r"`((?:[a-z_]+/)+[a-z_]*(?:\.py|\.typ|\.txt)?)`", MAP))
        missing = [name for name in named if not (ROOT / "src/wornpage" / name).exists() and not (ROOT / name).exists()]
        self.assertEqual(missing, [])


if __name__ == "__main__":
    unittest.main()

"""Files that the program reads go along when it is packed."""

import tomllib
import unittest
from fnmatch import fnmatch
from pathlib import Path

ROOT = Path(__file__).parent.parent


class Packaging(unittest.TestCase):
    def test_every_file_beside_the_code_is_packed(self) -> None:
        patterns = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["setuptools"]["package-data"][
            "wornpage"
        ]
        package = ROOT / "src" / "wornpage"
        beside = [path.relative_to(package) for path in package.rglob("*") if path.is_file() and "__pycache__" not in path.parts and path.suffix != ".py"]  # fmt: skip
        left = [str(path) for path in beside if not any(_fits(path, pattern) for pattern in patterns)]
        self.assertEqual(left, [])


def _fits(path: Path, pattern: str) -> bool:
    parts = pattern.split("/")
    return len(parts) == len(path.parts) and all(fnmatch(*pair) for pair in zip(path.parts, parts, strict=True))

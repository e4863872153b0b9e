"""Run every test and end with the line `N passed, N failed`."""

from __future__ import annotations

import sys
import unittest
from pathlib import Path


def main() -> int:
    """Exit status 0 if all passed."""
    root = Path(__file__).parent
    suite = unittest.defaultTestLoader.discover(str(root), top_level_dir=str(root.parent))
    result = unittest.TextTestRunner(verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = f", {len(result.skipped)} skipped" if result.skipped else ""
    print(f"{result.testsRun - failed - len(result.skipped)} passed, {failed} failed{skipped}")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())

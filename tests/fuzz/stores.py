"""A whole store, damaged anywhere: the next pressing may cost more, and says what the first one said."""

from __future__ import annotations

import random
import shutil
import tempfile
from functools import cache
from pathlib import Path

from wornpage.press import press

PAGE = """---
title: Loans
given: {branch: Quayside}
---

```python run #make
xs = list(range(50))
open("made.txt", "w").write(str(len(xs)))
```

```python run #use
print(sum(xs), given.branch, open("made.txt").read())
```

There are {= len(xs)} at {= given.branch}.
"""


@cache
def _place() -> tempfile.TemporaryDirectory[str]:
    """A place that goes when the program ends."""
    return tempfile.TemporaryDirectory(prefix="worn-fuzz-")


@cache
def _first() -> Path:
    """A folder in which the page has been pressed once."""
    folder = Path(_place().name) / "kept"
    folder.mkdir()
    (folder / "p.md").write_text(PAGE, encoding="utf-8")
    press(folder / "p.md")
    return folder


def damaged_and_pressed(text: str) -> None:
    """Damage the store as `text` has it, then press again, and with an edit. Raises `AssertionError` for other words."""
    chance = random.Random(text)
    first = _first()
    folder = first.parent / "again"
    shutil.rmtree(folder, ignore_errors=True)
    shutil.copytree(first, folder)
    for _ in range(chance.randint(1, 4)):
        _damage(folder / ".worn", text, chance)
    page = folder / "p.md"
    (folder / "p.html").unlink()
    press(page)
    if (folder / "p.html").read_bytes() != (first / "p.html").read_bytes():
        raise AssertionError("a damaged store changed what was published")
    page.write_text(PAGE.replace("range(50)", "range(60)"), encoding="utf-8")
    press(page)
    if "There are 60 at" not in (folder / "p.html").read_text(encoding="utf-8"):
        raise AssertionError("an edit was not seen")


def _damage(store: Path, text: str, chance: random.Random) -> None:
    files = sorted(path for path in store.rglob("*") if path.is_file() and path.name != "key")
    if not files:
        return
    path, other = chance.choice(files), chance.choice(files)
    data = bytearray(path.read_bytes())
    kind = chance.randrange(7)
    if kind == 0:
        path.write_bytes(text.encode("utf-8", "replace"))
    elif kind == 1:
        path.write_bytes(data[: chance.randrange(len(data) + 1)])
    elif kind == 2 and data:
        data[chance.randrange(len(data))] ^= 1 << chance.randrange(8)
        path.write_bytes(data)
    elif kind == 3:
        path.write_bytes(other.read_bytes())
    elif kind == 4:
        path.unlink()
    elif kind == 5:
        path.unlink()
        path.mkdir()
    else:
        shutil.rmtree(path.parent)
        path.parent.write_bytes(text.encode("utf-8", "replace"))

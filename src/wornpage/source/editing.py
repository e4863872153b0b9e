"""Writing a page that was changed by a tool while people write it too: only if it is still what was shown, and nothing but that."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from wornpage.source.text import as_encoded, normal, read_text
from wornpage.tree.problem import UsageError

Write = Callable[[Path, bytes], object]


def write_page(path: Path, shown: str, changed: str, write: Write) -> None:
    """Put `changed` in place of `shown`, which the page must still hold; line ends stay as they are. `write` writes a file whole.

    Raises `UsageError` where the page was changed meanwhile, or cannot be written; it is then as it was.
    """
    real = path.resolve()
    if read_text(real, path.name) != shown:
        raise UsageError("the page was changed meanwhile. Try again.")
    try:
        raw = real.read_bytes()
        if normal(raw.decode("utf-8")) != shown:
            raise UsageError("the page was changed meanwhile. Try again.")
        if as_encoded(shown, raw) != raw:
            raise UsageError(
                f"{path.name} mixes ways to end lines; nothing is written into it. Save it with one of them."
            )
        write(real, as_encoded(changed, raw))
    except OSError as error:
        raise UsageError(f"{path.name} cannot be written: {error.strerror}.") from None

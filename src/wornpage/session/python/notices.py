"""Warnings become notices, in their place among what the chunk shows."""

from __future__ import annotations

import warnings
from collections.abc import Callable
from typing import Any


def begin(show: Callable[[dict[str, Any]], None]) -> None:
    """Forget which warnings were given before, and send those to come through `show`."""
    with warnings.catch_warnings():
        pass  # leaving the block resets every module's memory of warnings given
    once: Any = getattr(warnings, "onceregistry", None)
    if once is not None:
        once.clear()  # and of those to be given but once

    def tell(
        message: Warning | str,
        category: type[Warning],
        filename: str,
        lineno: int,
        file: object = None,
        line: str | None = None,
    ) -> None:
        show({"kind": "notice", "text": f"{category.__name__}: {message}"})

    warnings.showwarning = tell

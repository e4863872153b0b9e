"""A page while it is being written: pressed at every save, shown in the browser, only what changed replaced."""

from __future__ import annotations

from wornpage.proof.server import serve

__all__ = ["serve"]

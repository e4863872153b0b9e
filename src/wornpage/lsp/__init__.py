"""Help in editors, over the open Language Server Protocol on standard input and output."""

from __future__ import annotations

from wornpage.lsp.server import start

__all__ = ["start"]

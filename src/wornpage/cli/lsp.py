"""`worn lsp`: help in editors."""

from __future__ import annotations


def lsp() -> None:
    """Speak the Language Server Protocol on standard input and output: an editor starts this.

    Findings as you type, completion of labels, works, givens, options and settings, values on hover, definitions,
    renaming of labels, an outline.
    """
    from wornpage.keeper.asking import start_if_wanted
    from wornpage.lsp import start

    start_if_wanted(asked=True)
    start()

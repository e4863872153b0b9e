"""Worn Page: prose and code in one Markdown file, run, reused and pressed to HTML and PDF.

The stages of a pressing, each a package, in the order of the work: `source` reads, `settings` settles, `store`
keeps, `session` runs, `plan` decides, `compose` puts answers in, `output` writes; `press` tells the story and
`cli` speaks with the user. `tree` is the ground they stand on.
"""

from __future__ import annotations

from wornpage.tree.version import VERSION

TYPE_CHECKING = False
if TYPE_CHECKING:
    given: object
    """The page's parameters, in chunks: `from wornpage import page, given`."""
    from wornpage.press import Output, Pressing, press
    from wornpage.tree.problem import PageError, Problem, UsageError, WornError

__version__ = VERSION
__all__ = ["Output", "PageError", "Pressing", "Problem", "UsageError", "WornError", "__version__", "press"]

_HOMES = {
    "Output": "wornpage.press",
    "Pressing": "wornpage.press",
    "press": "wornpage.press",
    "PageError": "wornpage.tree.problem",
    "Problem": "wornpage.tree.problem",
    "UsageError": "wornpage.tree.problem",
    "WornError": "wornpage.tree.problem",
}


def __getattr__(name: str) -> object:
    """Import what is asked for, and only that: sessions and `worn --help` need next to nothing."""
    if name not in _HOMES:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    from importlib import import_module

    return getattr(import_module(_HOMES[name]), name)

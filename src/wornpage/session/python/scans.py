"""What libraries look for out of our sight: variables that stand in a query, files that fit a pattern.

`duckdb.sql("select * from loans")` takes a variable for a table, and looks for it in the frames of the code itself, below all that
Python could tell. So what the text of a query has a word for is brought in before. `pl.read_csv("loans/*.csv")` goes through
a folder of which we may have seen a look before; so we look for the same files, and are seen to.
"""

from __future__ import annotations

import glob
import os
import re
import sys
from itertools import islice

from wornpage.session.python.callers import globals_above
from wornpage.session.python.names import Names

_SCANNING = ("duckdb",)
"""Libraries that look into frames by themselves."""
_GOING = ("duckdb", "polars", "pyarrow.dataset", "dask")
"""Libraries that look for files by themselves."""
_TABLES = re.compile(r"\b(?:from|join|into)\s+([^\W\d]\w*)", re.IGNORECASE)
"""Where tables are named: what is not there yet may be."""
_WORDS = re.compile(r"[^\W\d]\w*")
_QUOTED = re.compile(r"'([^'\n]+)'")
_PATTERN = re.compile(r"[\w. /~{}-]*[*?\[][\w. /*?\[\]!{},-]*\.\w+", re.ASCII)
_LONGEST = 300
"""Letters of a pattern."""
_MOST = 5_000
"""Files that are looked for."""


def is_pattern(text: str) -> bool:
    """Whether a text is one of files, such as `loans/*.csv`."""
    return len(text) <= _LONGEST and _PATTERN.fullmatch(text) is not None


def sought(text: object) -> object:
    """`text`, which may be handed to a library that looks for the files which fit it."""
    if type(text) is str and any(library in sys.modules for library in _GOING) and os.path.dirname(text) != os.sep:
        for _ in islice(glob.iglob(text, recursive=True), _MOST):
            pass
    return text


def queried(text: object) -> object:
    """`text`, which a function is about to be handed that may ask a database; a text that it goes by is read for names."""
    names = globals_above()
    if type(text) is str and type(names) is Names and any(library in sys.modules for library in _SCANNING):
        for word in _TABLES.findall(text):
            names.tracker.knows(word)
        for word in dict.fromkeys(_WORDS.findall(text)):
            if names.tracker.mentions(word) and not dict.__contains__(names, word):
                names[word]
        for quoted in filter(is_pattern, _QUOTED.findall(text)):
            sought(quoted)
    return text

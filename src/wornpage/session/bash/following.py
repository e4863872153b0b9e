"""What a shell has asked of paths, from what it tells of each command that it carries out."""

from __future__ import annotations

import os
import re
import shlex
from itertools import pairwise
from pathlib import Path

_MOST = 4 << 20
"""Bytes of it that are read."""
_TEST = re.compile(r"^\++ (?:'\['|test) (.*)$")
_TEST_AS_IT_IS = re.compile(r"^\++ \[\[ (?:! )?(?:(-[bcdefghkLOprsuwx]) (.+)|(.+) (-(?:nt|ot|ef)) (.+)) \]\]$")
"""Words stand there as they are, without quotes."""
_GOES = re.compile(r"^\++ cd (\S.*)$")
_OF_ONE = frozenset(f"-{letter}" for letter in "bcdefghkLOprsuwx")
_OF_TWO = frozenset({"-nt", "-ot", "-ef"})
_MOST_PLACES = 20


def asked_for(told: Path, folder: Path) -> tuple[tuple[str, str], ...]:
    """Looks at paths, as `Footprints.end` takes them, in the lines that a shell has `told`; none where it was not followed.

    Which part of it has gone to another folder cannot be told for certain, so each path counts in all folders that any has gone to.
    """
    try:
        with told.open("rb") as file:
            lines = file.read(_MOST).decode("utf-8", "surrogateescape").splitlines()
    except OSError:
        return ()
    places = {folder: None}
    found: dict[str, None] = {}
    for line in lines:
        if (went := _GOES.match(line)) and len(places) < _MOST_PLACES:
            places |= dict.fromkeys([place / _words(went[1])[0] for place in places])
        found |= dict.fromkeys(os.path.normpath(place / word) for word in _tested(line) for place in places)
    return tuple(("file", path) for path in found)


def _tested(line: str) -> list[str]:
    """What a line tells that was tested."""
    if as_it_is := _TEST_AS_IT_IS.match(line):
        return [word for word in as_it_is.group(2, 3, 5) if word]
    test = _TEST.match(line)
    words = _words(test[1]) if test else []
    tested = [after for word, after in pairwise(words) if word in _OF_ONE or word in _OF_TWO]
    return tested + [before for before, word in pairwise(words) if word in _OF_TWO]


def _words(text: str) -> list[str]:
    """Words without their quotes."""
    try:
        return shlex.split(text) or [text]
    except ValueError:
        return [text]

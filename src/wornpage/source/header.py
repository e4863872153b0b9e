"""The first line of a fence: `LANGUAGE run [#label] [key=value …]`."""

from __future__ import annotations

import re

from msgspec import Struct

from wornpage.source.attributes import ITEM, unquoted
from wornpage.tree.nodes import RawOption
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span

_SPACED = re.compile(r"([A-Za-z][\w-]*)(?:[ \t]+=[ \t]*|=[ \t]+)([^\s=]+)(?!=)")
"""An option with spaces around its sign."""
LABEL = re.compile(r"[A-Za-z0-9](?:[A-Za-z0-9-]*[A-Za-z0-9])?")
"""What chunks may be called."""


class Header(Struct, frozen=True):
    """The first line of a chunk, read."""

    language: str
    label: str
    options: tuple[RawOption, ...]
    problems: tuple[Problem, ...]


def is_chunk(info: str) -> bool:
    """Whether a fence with this info string is run."""
    words = info.split(None, 2)
    return len(words) > 1 and words[1] == "run"


def listing_info(info: str) -> tuple[str, str]:
    """The language of a fence that is only shown, and its label; what else stands there is for other programs."""
    words = info.split()
    language = words[0] if words and not words[0].startswith("#") else ""
    return language, next((word[1:] for word in words if word.startswith("#") and len(word) > 1), "")


def parse_header(info: str, span: Span) -> Header:
    """Read the info string of a chunk; `span` is where it begins."""
    label, options, problems = "", [], []
    seen: set[str] = set()
    read_to = 0
    items = list(ITEM.finditer(info))
    for item in items[2:]:
        word, place = item[0], span.at(span.line, span.column + item.start())
        if spaced := _SPACED.match(info, item.start()):
            what = f"there are spaces around the `=` of {spaced[1]!r}."
            problems.append(Problem(place, what, f"Write it in one: `{spaced[1]}={spaced[2]}`."))
            options.append(RawOption(spaced[1], unquoted(spaced[2]), place))
            read_to = spaced.end()
        if item.start() < read_to:
            continue
        if word.startswith("#"):
            problems += _check_label(word[1:], label, place)
            label = label or word[1:]
        elif "=" in word:
            key, _, value = word.partition("=")
            problems += _check_once(key, seen, place)
            options.append(RawOption(key, unquoted(value), place))
        else:
            hint = f"Write `{word}=…` for an option, or `#{word}` for a label."
            problems.append(Problem(place, f"{word!r} has no place in a chunk's header.", hint))
    return Header(items[0][0].lower(), label, tuple(options), tuple(problems))


def _check_label(word: str, earlier: str, place: Span) -> list[Problem]:
    if earlier:
        what = f"this chunk has two labels, {earlier!r} and {word!r}."
        return [Problem(place, what, "Keep one of them.")]
    if not LABEL.fullmatch(word):
        hint = "A label is made of letters a to z, digits and `-`."
        return [Problem(place, f"{word!r} cannot be a label.", hint)]
    return []


def _check_once(key: str, seen: set[str], place: Span) -> list[Problem]:
    if key in seen:
        return [Problem(place, f"the option {key!r} stands here twice.", "Keep one of them.")]
    seen.add(key)
    return []

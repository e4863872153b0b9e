"""Rendered text: runs of letters with looks, joined as print wants it (no doubled stops, quotes within quotes)."""

from __future__ import annotations

import re
from collections.abc import Iterable
from html import unescape

from msgspec import Struct
from msgspec.structs import replace

_TAG = re.compile(r"<(/?)(i|b|sup|sub|sc|span)\b[^>]*>")
_STOPS = ".,;:!?"
TERM = "term"
"""A look that is not seen: the word is one of the style's own, such as `ibid.`, and gets a large letter where it begins a sentence."""


class Run(Struct, frozen=True):
    """Letters that look alike."""

    text: str
    looks: frozenset[str] = frozenset()
    """`italic`, `bold`, `sup`, `sub`, `smallcaps`, `nocase`."""
    href: str = ""


Runs = tuple[Run, ...]
_LOOKS = {"i": "italic", "b": "bold", "sup": "sup", "sub": "sub", "sc": "smallcaps", "span": "nocase"}


def parsed(text: str) -> Runs:
    """Text with CSL-JSON's tags as runs."""
    made: list[Run] = []
    opened: list[tuple[str, str]] = []
    """Tags that are open, each with the look that it gives."""
    at = 0
    for match in _TAG.finditer(text):
        if match.start() > at:
            made.append(Run(unescape(text[at : match.start()]), frozenset(look for _, look in opened)))
        tag = match[2]
        if not match[1]:
            opened.append((tag, "smallcaps" if "small-caps" in match[0] else _LOOKS[tag]))
        elif own := [place for place, (one, _) in enumerate(opened) if one == tag]:
            del opened[own[-1]]
        at = match.end()
    if at < len(text):
        made.append(Run(unescape(text[at:]), frozenset(look for _, look in opened)))
    return tuple(made)


def words(runs: Iterable[Run]) -> str:
    """The letters alone."""
    return "".join(run.text for run in runs)


def with_look(runs: Runs, look: str) -> Runs:
    """`runs` with a further look; italics within italics stand upright again."""
    made = []
    for run in runs:
        if look == "italic" and "italic" in run.looks:
            made.append(replace(run, looks=run.looks - {"italic"}))
        else:
            made.append(replace(run, looks=run.looks | {look}))
    return tuple(made)


def without_look(runs: Runs, look: str) -> Runs:
    """`runs` without a look."""
    return tuple(replace(run, looks=run.looks - {look}) for run in runs)


def joined(parts: Iterable[Runs], delimiter: str = "") -> Runs:
    """Parts that say something, with `delimiter` between."""
    made: Runs = ()
    for part in parts:
        if not words(part):
            continue
        if made:
            made = (*made, Run(delimiter)) if delimiter else made
        made = (*made, *part)
    return made


def tidied(runs: Runs, stops_inside_quotes: bool = False) -> Runs:
    """Runs with stops and spaces that meet at their seams settled: `Ed.. ` → `Ed. `, `?.` → `?`, one space of two."""
    made: list[Run] = []
    for run in runs:
        text = run.text
        before = "".join(one.text for one in made[-3:])
        if stops_inside_quotes and text[:1] in {".", ","} and before.endswith(("”", "’")):
            _put_inside(made, text[0])
            text = text[1:]
        while text and before and _clash(before.rstrip("”’»“"), text[0], text):
            text = text[1:]
        if text.startswith(" ") and before.endswith(" "):
            text = text.lstrip(" ")
        if text:
            text = re.sub(r"(?<=[.!?]) ?\.(?=$|[\s,;:)])", "", text) if len(text) > 1 else text
            text = re.sub(r" {2,}", " ", text)
            made.append(replace(run, text=text))
    return _merged(made)


def _put_inside(made: list[Run], stop: str) -> None:
    """Put a stop before the quotation marks that `made` ends with, which may be several, in runs of their own."""
    place = len(made) - 1
    while place > 0 and not made[place].text.rstrip("”’"):
        place -= 1
    text = made[place].text
    inner = text.rstrip("”’")
    if not _clash(inner, stop, stop):
        made[place] = replace(made[place], text=inner + stop + text[len(inner) :])


def _clash(before: str, first: str, text: str) -> bool:
    """Whether a stop must go after what stands before it."""
    if not before or first not in _STOPS:
        return False
    last = before[-1]
    if first == ".":
        return last in ".!?;:"
    if first in ",;:":
        return last == first or (last == ";" and first == ":")
    return first in "!?" and last == first


def _merged(runs: list[Run]) -> Runs:
    made: list[Run] = []
    for run in runs:
        if made and made[-1].looks == run.looks and made[-1].href == run.href:
            made[-1] = replace(made[-1], text=made[-1].text + run.text)
        else:
            made.append(run)
    return tuple(made)


# --- case -------------------------------------------------------------------------------------

_SMALL = set(
    "a an and as at but by down for from in into nor of on onto or over so the till to up via with yet v vs et al".split()
)


def cased(runs: Runs, case: str, language: str) -> Runs:
    """`runs` in a case: `lowercase`, `uppercase`, `capitalize-first`, `capitalize-all`, `sentence`, `title` (English only)."""
    if case == "title" and language != "en":
        return runs
    whole = words(runs)
    made, offset = [], 0
    for run in runs:
        text = run.text if "nocase" in run.looks else _cased(run.text, case, offset, whole)
        made.append(replace(run, text=text))
        offset += len(run.text)
    return tuple(made)


def _cased(text: str, case: str, offset: int, whole: str) -> str:
    match case:
        case "lowercase":
            return text.lower()
        case "uppercase":
            return text.upper()
        case "capitalize-first":
            return _first_up(text) if not whole[:offset].strip() else text
        case "capitalize-all":
            return re.sub(r"\b\w+", lambda match: match[0][0].upper() + match[0][1:], text)
        case "sentence":
            lowered = text.lower() if whole.isupper() else re.sub(r"\b[A-Z](?=[a-z]+\b)", lambda m: m[0].lower(), text)
            return _first_up(lowered) if not whole[:offset].strip() else lowered
        case "title":
            return re.sub(r"[^\W\d_][\w’'.-]*", lambda match: _title_word(match, offset, whole), text)
    return text


def _first_up(text: str) -> str:
    """`text` with its first letter large; a number or an address that comes first has none."""
    for place, letter in enumerate(text):
        if letter.isalpha() and not text.startswith(("http:", "https:"), place):
            return text[:place] + letter.upper() + text[place + 1 :]
        if letter.isalnum():
            break
    return text


def _title_word(match: re.Match[str], offset: int, whole: str) -> str:
    word = match[0]
    start = offset + match.start()
    if start and whole[start - 1].isalnum():
        return word  # the word began in the run before
    before, after = whole[:start].rstrip(), whole[start + len(word) :].strip()
    edge = not before or before[-1] in ":?!.–—" or not after
    if any(letter.isupper() for letter in word[1:]) or (word.lower() in _SMALL and not edge):
        return word if any(letter.isupper() for letter in word[1:]) else word.lower()
    return word[0].upper() + word[1:]

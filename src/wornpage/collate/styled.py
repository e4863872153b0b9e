"""What the styles and lists of a document say of a paragraph: its kind, in whatever language the program speaks."""

from __future__ import annotations

import re

from wornpage.collate.parts import Element, Parts, W

_HEADING = re.compile(r"heading (\d)")
_KINDS = {
    "title": "title", "subtitle": "title", "author": "title", "affiliation": "title", "date": "title", "abstract title": "title",
    "keywords": "title", "caption": "caption", "quote": "quote", "quotations": "quote", "block text": "quote",
    "code block": "code", "preformatted text": "code", "code aside": "code", "output": "output", "notice": "output", "failure": "output",
    "figure": "figure", "equation": "formula", "bibliography": "reference", "toc heading": "contents", "contents heading": "contents",
    "table of figures": "contents", "definition term": "term", "definition meaning": "meaning", "dividing line": "rule", "gap": "gap",
    "table note": "output", "index 1": "reference", "index 2": "reference", "part title": "title", "box title": "title", "place of figure": "output",
}  # fmt: skip
_CONTENTS = re.compile(r"(toc|contents) \d")
_NOTE = re.compile(r"(foot|end)note( text)?")
_LIST = re.compile(r"list( bullet| number| continue)?( \d)?")


class Styles:
    """The styles and lists of one document."""

    def __init__(self, parts: Parts) -> None:
        self.names: dict[str, str] = {}
        self._lists: dict[str, str] = {}
        root = parts.root(parts.kind("styles"))
        for style in root.iter(f"{W}style") if root is not None else ():
            name, number = style.find(f"{W}name"), style.find(f"{W}pPr/{W}numPr/{W}numId")
            key = str(style.get(f"{W}styleId"))
            self.names[key] = str(name.get(f"{W}val", "")).lower() if name is not None else ""
            if number is not None:
                self._lists[key] = str(number.get(f"{W}val"))
        self._counting = _counting(parts)

    def kind(self, about: Element | None) -> tuple[str, int, bool, str]:
        """Kind, level, whether it counts, and the name of the style of a paragraph with such properties."""
        style = about.find(f"{W}pStyle") if about is not None else None
        key = str(style.get(f"{W}val")) if style is not None else ""
        name = self.names.get(key, key.lower())
        heading = _HEADING.match(name)
        if heading:
            return "h", int(heading[1]), False, name
        if _CONTENTS.match(name):
            return "contents", 0, False, name
        if _NOTE.fullmatch(name):
            return "note", 0, False, name
        if name in _KINDS:
            return _KINDS[name], 0, False, name
        number, level = self._place(about, key)
        if number or (_LIST.fullmatch(name) and name != "list continue"):
            counting = self._counting.get(number, {}).get(level, "")
            ordered = counting not in {"", "bullet", "none"} or name.startswith("list number")
            return "li", int(level) + 1, ordered, name
        return "p", 0, False, name

    def _place(self, about: Element | None, style: str) -> tuple[str, str]:
        """The list and the level of a paragraph; no list for none."""
        own = about.find(f"{W}numPr") if about is not None else None
        number, level = (own.find(f"{W}numId"), own.find(f"{W}ilvl")) if own is not None else (None, None)
        which = str(number.get(f"{W}val")) if number is not None else self._lists.get(style, "")
        return ("" if which == "0" else which), str(level.get(f"{W}val")) if level is not None else "0"


def _counting(parts: Parts) -> dict[str, dict[str, str]]:
    """By list and level: how it counts."""
    root = parts.root(parts.kind("numbering"))
    if root is None:
        return {}
    kinds: dict[str, dict[str, str]] = {}
    for kind in root.iter(f"{W}abstractNum"):
        levels = {}
        for level in kind.iter(f"{W}lvl"):
            counting = level.find(f"{W}numFmt")
            levels[str(level.get(f"{W}ilvl"))] = str(counting.get(f"{W}val")) if counting is not None else "decimal"
        kinds[str(kind.get(f"{W}abstractNumId"))] = levels
    made = {}
    for one in root.iter(f"{W}num"):
        of = one.find(f"{W}abstractNumId")
        made[str(one.get(f"{W}numId"))] = kinds.get(str(of.get(f"{W}val")) if of is not None else "", {})
    return made

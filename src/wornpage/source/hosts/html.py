"""Pages in HTML: `<worn-chunk language="python" label="load" show="nothing">` … `</worn-chunk>`, `<worn-value form="percent">expression</worn-value>`,
settings in comments at the head that begin with `worn:`. Code may stand in a comment within its element, so that nothing in it is taken for tags.
"""

from __future__ import annotations

import html
import re

from wornpage.source.hosts.filling import Filling
from wornpage.source.hosts.hosted import Hosted
from wornpage.source.page import FrontMatter
from wornpage.tree import nodes as n

_PLACE = re.compile(
    r"(?P<chunk><worn-chunk\b(?P<asked>[^>]*)>(?P<code>.*?)</worn-chunk\s*>)"
    r"|(?P<value><worn-value\b(?P<looks>[^>]*)>(?P<expression>.*?)</worn-value\s*>)"
    r"|(?P<open><worn-(?:chunk|value)\b[^>]*>)"
    r"|<!--.*?-->|<(?P<kind>script|style|textarea)\b.*?</(?P=kind)\s*>",
    re.DOTALL | re.IGNORECASE,
)
_ATTRIBUTE = re.compile(r"""([A-Za-z][\w-]*)\s*(?:=\s*("[^"]*"|'[^']*'|[^\s"'>]+))?""")
_SETTINGS = re.compile(r"<!--[ \t]*worn:(.*?)-->", re.DOTALL)
_HEAD = re.compile(r"(?:\s|<!DOCTYPE[^>]*>|<!--.*?-->)*", re.DOTALL | re.IGNORECASE)


def read(text: str, name: str) -> Hosted:
    """The text with all that is to be filled in."""
    filling = Filling(text, name)
    for found in _PLACE.finditer(text):
        if found["chunk"]:
            _chunk(filling, found)
        elif found["value"]:
            _value(filling, found)
        elif found["open"]:
            tag = found["open"][1:].split()[0].rstrip(">")
            filling.complain(found.start(), f"the `<{tag}>` that begins here never ends.", f"Put `</{tag}>` behind it.")
    return filling.hosted(_front(text))


def _chunk(filling: Filling, found: re.Match[str]) -> None:
    label, language, options = "", "", dict[str, n.RawOption]()
    for key, value, at in _attributes(found, "asked"):
        if key == "label":
            label = filling.label(value, at)
        elif key == "language":
            language = value.lower()
        elif key in options:
            filling.complain(at, f"the option {key!r} stands here twice.", "Keep one of them.")
        else:
            options[key] = n.RawOption(key, value, filling.span(at, at + 1))
    if not language:
        filling.complain(found.start(), "this chunk names no language.", 'Write `<worn-chunk language="python">`.')
    code, begins = found["code"], found.start("code")
    inner = re.fullmatch(r"\s*<!--(.*?)-->\s*", code, re.DOTALL)
    if inner:
        code, begins = inner[1], begins + inner.start(1)
    else:
        code = html.unescape(code)
    if code[:1] == "\n":
        code, begins = code[1:], begins + 1
    head = found[0][: found.start("code") - found.start()]
    filling.chunk(found.start(), found.end(), code, begins, language or "python", label, tuple(options.values()), head)


def _value(filling: Filling, found: re.Match[str]) -> None:
    form = next((value for key, value, _ in _attributes(found, "looks") if key == "form"), "")
    filling.value(found.start(), found.end(), html.unescape(found["expression"]).strip(), form)


def _attributes(found: re.Match[str], group: str) -> list[tuple[str, str, int]]:
    """The attributes of a tag: name, value, place."""
    made = []
    for one in _ATTRIBUTE.finditer(found[group]):
        value = one[2] or "yes"
        made.append((one[1].lower(), html.unescape(value.strip("\"'")), found.start(group) + one.start()))
    return made


def _front(text: str) -> FrontMatter:
    """The settings in comments before the first tag, each in its own line."""
    head = _HEAD.match(text)
    ends = head.end() if head else 0
    lines = [""] * (text.count("\n", 0, ends) + 1)
    for found in _SETTINGS.finditer(text, 0, ends):
        first = text.count("\n", 0, found.start(1))
        for at, line in enumerate(found[1].split("\n")):
            lines[first + at] = line.strip() if not at else line.rstrip()
    return FrontMatter("\n".join(lines).rstrip() + "\n", 1)

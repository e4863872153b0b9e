"""Places that a template has for what stands at the head of a page, and for its text: content controls with our tags."""

from __future__ import annotations

from typing import Any

from wornpage.output.docx.xml import W
from wornpage.tree import nodes as n
from wornpage.tree.walk import words_of

Element = Any
_W = f"{{{W}}}"
_TAG = "worn:"
BODY = "body"
_BOUND = {"title": ":title[", "authors": ":creator[", "keywords": ":keywords["}
"""What controls that are bound to the properties of the document show, by a part of what they are bound to."""


def fill(document: Element, page: n.Composed) -> frozenset[str]:
    """Put the head of a page into the places there are for it; what has been put."""
    head = page.head
    words = {
        "title": words_of(head.title),
        "subtitle": words_of(head.subtitle),
        "authors": ", ".join(person.name for person in head.authors),
        "date": head.date,
        "abstract": " ".join(words_of(block.children) for block in head.abstract if isinstance(block, n.Paragraph)),
        "keywords": ", ".join(words_of(keyword) for keyword in head.keywords),
    }
    filled = set()
    for control in list(document.iter(f"{_W}sdt")):
        what = _asked(control)
        if what in words:
            _put(control, words[what])
            filled.add(what)
    return frozenset(filled)


def place_of_body(body: Element) -> Element | None:
    """The control, or the empty last paragraph, that gives way to the text; None where it goes to the end."""
    for control in body.iter(f"{_W}sdt"):
        if _asked(control) == BODY and control.getparent() is body:
            return control
    last = body[-1] if len(body) else None
    return last if last is not None and _is_empty(last) else None


def _is_empty(block: Element) -> bool:
    """Whether a paragraph holds nothing: no word, no break, no end of a section."""
    if block.tag != f"{_W}p":
        return False
    held = {"r", "hyperlink", "sdt", "fldSimple", "sectPr"}
    return not any(next(block.iter(f"{_W}{name}"), None) is not None for name in held)


def _asked(control: Element) -> str:
    """What a control is for."""
    about = control.find(f"{_W}sdtPr")
    if about is None:
        return ""
    tag = about.find(f"{_W}tag")
    if tag is not None and str(tag.get(f"{_W}val", "")).startswith(_TAG):
        return str(tag.get(f"{_W}val"))[len(_TAG) :]
    binding = about.find(f"{_W}dataBinding")
    path = str(binding.get(f"{_W}xpath", "")) if binding is not None else ""
    return next((what for what, part in _BOUND.items() if part in path), "")


def _put(control: Element, words: str) -> None:
    """Let a control show `words` in the look of its first letters, and no longer as something to be filled in."""
    content, about = control.find(f"{_W}sdtContent"), control.find(f"{_W}sdtPr")
    hint = about.find(f"{_W}showingPlcHdr")
    if hint is not None:
        about.remove(hint)
    texts = list(content.iter(f"{_W}t"))
    if not texts:
        return
    texts[0].text = words
    texts[0].set("{http://www.w3.org/XML/1998/namespace}space", "preserve")
    for further in texts[1:]:
        further.text = ""
    run = texts[0].getparent()
    looks = run.find(f"{_W}rPr")
    style = looks.find(f"{_W}rStyle") if looks is not None else None
    if style is not None and "placeholder" in str(style.get(f"{_W}val", "")).lower():
        looks.remove(style)

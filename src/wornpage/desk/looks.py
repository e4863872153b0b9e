"""The pages of the desk itself, as HTML."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from functools import cache
from pathlib import Path

from jinja2 import Environment, FileSystemLoader
from markupsafe import Markup
from msgspec import Struct

from wornpage.desk.offers import Offer
from wornpage.output.html.fields import fields
from wornpage.output.html.scripts import OF_FIELDS, own_script
from wornpage.settings.givens import as_written
from wornpage.tree.files import as_json

_HERE = Path(__file__).parent / "pages"
_WORDS = {
    "html": "Web page", "pdf": "PDF", "docx": "Word (docx)", "epub": "Book (EPUB)", "slides": "Slides", "slides-pdf": "Slides (PDF)", "pptx": "Slides (pptx)",
    "tex-pdf": "PDF (LaTeX)", "xlsx": "Workbook (xlsx)",
}  # fmt: skip


class Shown(Struct, frozen=True):
    """An offer on the front page."""

    key: str
    title: str
    abstract: str = ""
    language: str = "en"
    wrong: bool = False


@cache
def _environment() -> Environment:
    return Environment(loader=FileSystemLoader(_HERE), autoescape=True, trim_blocks=True, lstrip_blocks=True)


def _page(name: str, **told: object) -> bytes:
    return as_json(_environment().get_template(name).render(**told))


def script() -> bytes:
    """What makes the desk go."""
    return own_script(OF_FIELDS).encode() + b"\n" + (_HERE / "desk.js").read_bytes()


def style() -> bytes:
    """How it looks."""
    return (_HERE / "desk.css").read_bytes()


def front(offers: Iterable[Shown], person: str) -> bytes:
    """All pages of the desk."""
    return _page("front.html.j2", title="Reports", offers=list(offers), person=person, root="")


def door(to: str, wrong: str, root: str) -> bytes:
    """Where people say who they are."""
    return _page("door.html.j2", title="Log in", to=to, wrong=wrong, root=root)


def words(title: str, said: str, root: str) -> bytes:
    """A page that says something."""
    return _page("said.html.j2", title=title, words=said, root=root)


def desk(
    offer: Offer,
    given: Mapping[str, object],
    faults: Mapping[str, str],
    sets: Mapping[str, object],
    query: str,
    person: str,
    several: bool,
) -> bytes:
    """One page of the desk; `given` are the values that stand in its fields, `query` the address's own."""
    begins = not faults and not any(one.required and given.get(name) is None for name, one in offer.declared.items())
    known = {"sets": dict(sets), "faults": dict(faults), "begins": begins}
    return _page(
        "desk.html.j2", title=offer.title, offer=offer, fields=Markup(fields(offer.declared, dict(given))), known=Markup(_in_script(known)),
        kinds=[(kind, _WORDS.get(kind, kind)) for kind in offer.kinds], query=query, person=person, several=several, begins=begins, root="../../",
    )  # fmt: skip


def shown_values(offer: Offer, written: Mapping[str, object]) -> dict[str, object]:
    """The values in the fields: those that were picked, where they can be, else those of the page."""
    found = dict(offer.given)
    for name, text in written.items():
        if name in offer.declared:
            try:
                found[name] = offer.declared[name].value(text)
            except ValueError:
                found[name] = as_written(text)
    return found


def _in_script(data: object) -> str:
    return json.dumps(data, ensure_ascii=False).replace("<", "\\u003c")

"""Tools for readers within a page: controls that show it with other values, and a switch for its code.

What comes of all values lies in the page: each block once, whichever values it belongs to, packed as browsers unpack it.
"""

from __future__ import annotations

import base64
import json
import zlib
from html import escape

from msgspec import Struct

from wornpage.output.html.body import Body
from wornpage.output.html.fields import fields
from wornpage.output.html.options import HtmlPress
from wornpage.output.html.scripts import OF_FIELDS, own_script
from wornpage.output.kind import Controls
from wornpage.settings.givens import as_written
from wornpage.tree.language import Language

OF_READERS = ("reader_tools", "reader_script")
"""Pieces of the frame."""
_SWAPPED = ("title", "subtitle", "abstract", "keywords", "contents", "notes")
"""Pieces beside the blocks that hang on values."""
_OWN = "readers.js"
Tools = tuple[str, str, tuple[str, ...]]


class Readers(Struct, frozen=True):
    """What readers may pick, and what comes of it."""

    controls: Controls
    states: list[tuple[dict[str, object], Body]]
    """Values as written, and the page with them."""


def tools_of(body: Body, readers: Readers | None, options: HtmlPress, terms: Language) -> Tools:
    """The tools, the script that they need, and the page's blocks as the script finds them."""
    switch = _switch(options.code_switch, terms) if options.code_switch != "no" else ""
    if readers is None and not switch:
        return "", "", body.blocks
    if readers is None:
        return f'<div class="readers" hidden>{switch}</div>', f"<script>{own_script(_OWN)}</script>", body.blocks
    tools = f'<div class="readers" hidden>{_picks(readers.controls, terms)}{switch}</div>'
    return tools, f"{_states(body, readers)}<script>{own_script(OF_FIELDS, _OWN)}</script>", _marked(body)


def _picks(controls: Controls, terms: Language) -> str:
    name, unknown = escape(terms.readers["values"]), escape(terms.readers["unknown"])
    made = fields(controls.declared, controls.given)
    return f'<form class="picks" aria-label="{name}">{made}<p class="unknown" role="status" hidden>{unknown}</p></form>'


def _switch(begins: str, terms: Language) -> str:
    said = terms.readers
    ways = "".join(
        f'<label><input type="radio" name="code" value="{way}"{" checked" if way == begins else ""}> {escape(said[way])}</label>'
        for way in ("shown", "hidden", "beside")
    )
    return f'<fieldset class="code-switch"><legend>{escape(said["code"])}</legend>{ways}</fieldset>'


def _marked(body: Body) -> tuple[str, ...]:
    """The blocks, with marks around each by which the script takes them out and puts them back."""
    return tuple(f"<!--block {at}-->{html}<!--/block-->" for at, html in enumerate(body.blocks))


def _states(body: Body, readers: Readers) -> str:
    """All that other values change, as data: what the page shows at first is not in it, since it is in the page."""
    here = {html: at for at, html in reversed(list(enumerate(body.blocks)))}
    parts: dict[str, int] = {}
    states = [_state(one, here, parts) for _, one in readers.states]
    data = {"parts": list(parts), "states": states}
    given = [_key(one) for one in (readers.controls.given, *(given for given, _ in readers.states))]
    packed = zlib.compressobj(9, zlib.DEFLATED, -15)
    text = json.dumps(data, ensure_ascii=False).encode("utf-8", "replace")
    held = base64.b64encode(packed.compress(text) + packed.flush()).decode()
    known = json.dumps({"given": given, "title": body.values["plain_title"]}, ensure_ascii=False).replace(
        "<", "\\u003c"
    )
    return f'<script type="application/json" id="worn-values">{known}</script><script type="text/plain" id="worn-states">{held}</script>'


def _state(one: Body, here: dict[str, int], parts: dict[str, int]) -> dict[str, object]:
    """Its blocks, by their number in the page as it is (from -1 downwards) or among the parts; and its other pieces."""
    blocks = [-1 - here[html] if html in here else parts.setdefault(html, len(parts)) for html in one.blocks]
    pieces = {name: parts.setdefault(one.pieces[name], len(parts)) for name in _SWAPPED if one.pieces[name]}
    return {"blocks": blocks, "pieces": pieces, "title": one.values["plain_title"]}


def _key(given: dict[str, object]) -> dict[str, str]:
    return {name: str(as_written(value)) for name, value in given.items()}

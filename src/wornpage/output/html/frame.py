"""The frame of an HTML page: a stationery's template with the page's pieces set into it.

The template is filled with plain values first, and with a placeholder for each piece of HTML. That frame is remembered:
a page whose body alone has changed needs no template engine.
"""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from typing import Any

from wornpage.store.blocks import BlockCache
from wornpage.store.packages import version_of

_frames = BlockCache("frames")
_PLACEHOLDER = re.compile("\x02(\\w+)\x03")


def framed(template: str, pieces: Mapping[str, str], values: Mapping[str, Any]) -> str:
    """The whole page: `pieces` are HTML already, and an empty one counts as absent; `values` are escaped."""
    present = [name for name, piece in pieces.items() if piece]
    key = (template, json.dumps([present, values], ensure_ascii=False, sort_keys=True), version_of("jinja2"))
    frame = _frames.get(*key)
    if frame is None:
        frame = _filled(template, list(pieces), present, values)
        _frames.put(frame, *key)
    return _PLACEHOLDER.sub(lambda match: pieces[match[1]], frame)


def _filled(template: str, names: list[str], present: list[str], values: Mapping[str, Any]) -> str:
    from jinja2 import Environment
    from markupsafe import Markup

    environment = Environment(autoescape=True, keep_trailing_newline=True)
    holders = {name: Markup(f"\x02{name}\x03" if name in present else "") for name in names}
    return environment.from_string(template).render(**values, **holders)

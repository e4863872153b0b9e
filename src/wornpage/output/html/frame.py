"""The frame of an HTML page: a stationery's template with the page's pieces set into it.

The template is filled with plain values first, and with a placeholder for each piece of HTML. That frame is remembered:
a page whose body alone has changed needs no template engine.
"""

from __future__ import annotations

import json
import re
import secrets
from collections.abc import Mapping

from wornpage.store.blocks import BlockCache
from wornpage.store.packages import version_of
from wornpage.tree.problem import near_miss

_frames = BlockCache("frames")
_CONTROLS = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ufdd0-\ufdef\ufffe\uffff]")
"""What no HTML may hold; nothing of it is a sign of ours either."""


def framed(template: str, pieces: Mapping[str, str], values: Mapping[str, object]) -> str:
    """The whole page: `pieces` are HTML already, and an empty one counts as absent; `values` are escaped."""
    present = [name for name, piece in pieces.items() if piece]
    key = (template, json.dumps([present, values], ensure_ascii=False, sort_keys=True), version_of("jinja2"))
    frame = _frames.get(*key)
    if frame is None:
        frame = _filled(template, list(pieces), present, values)
        _frames.put(frame, *key)
    whole = "".join(part if place % 2 == 0 else pieces[part] for place, part in enumerate(frame))
    return _CONTROLS.sub("\ufffd", whole)


def _filled(template: str, names: list[str], present: list[str], values: Mapping[str, object]) -> list[str]:
    """The frame in parts: text, the name of a piece, text, and so on."""
    from jinja2 import Environment, StrictUndefined, TemplateError, TemplateSyntaxError
    from markupsafe import Markup

    mark = f"piece-{secrets.token_hex(16)}-"  # which no value can know
    environment = Environment(autoescape=True, keep_trailing_newline=True, undefined=StrictUndefined)
    holders = {name: Markup(f"{mark}{name}{mark}" if name in present else "") for name in names}
    try:
        return environment.from_string(template).render(**values, **holders).split(mark)
    except TemplateSyntaxError as error:
        raise FrameFault(error.lineno, f"the frame of the page cannot be read: {error.message}.") from None
    except Exception as error:  # whatever its author has the template do: add words to numbers, divide by nothing
        named = re.search(r"'(\w+)' is undefined", str(error))
        hint = near_miss(named[1], [*values, *holders]) if named else ""
        said = str(error) if isinstance(error, TemplateError) else f"{type(error).__name__}: {error}"
        raise FrameFault(_line_of(error), f"the frame of the page cannot be filled: {said}.", hint) from None


class FrameFault(Exception):
    """A frame that is no template, or asks for what there is not: its line, what is wrong, and a hint."""

    def __init__(self, line: int, what: str, hint: str = "") -> None:
        super().__init__(what)
        self.line, self.what, self.hint = line, what, hint


def _line_of(error: Exception) -> int:
    """The line of the template at which it failed: the template engine puts it into the traceback."""
    line, trace = 1, error.__traceback__
    while trace is not None:
        if trace.tb_frame.f_code.co_filename == "<template>":
            line = trace.tb_lineno
        trace = trace.tb_next
    return line

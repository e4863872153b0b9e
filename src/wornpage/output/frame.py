"""The frame of a page: a stationery's template with the page's pieces set into it.

The template is filled with plain values first, and with a placeholder for each piece. That frame is remembered:
a page whose body alone has changed needs no template engine.
"""

from __future__ import annotations

import json
import re
import secrets
from collections.abc import Mapping

from msgspec import Struct

from wornpage.store.blocks import BlockCache
from wornpage.store.packages import version_of
from wornpage.tree.problem import near_miss

_frames = BlockCache("frames")
_CONTROLS = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ufdd0-\ufdef\ufffe\uffff]")
"""What no HTML may hold; nothing of it is a sign of ours either."""


class Signs(Struct, frozen=True):
    """How a template says what is to be filled in."""

    escapes: bool
    """Whether values are escaped as HTML wants it; they are ready as they are otherwise."""
    value: tuple[str, str]
    block: tuple[str, str]
    comment: tuple[str, str]


HTML = Signs(True, ("{{", "}}"), ("{%", "%}"), ("{#", "#}"))
BARE = Signs(False, ("<<", ">>"), ("<%", "%>"), ("<#", "#>"))
"""For what has braces and signs of percent of its own."""


def framed(template: str, pieces: Mapping[str, str], values: Mapping[str, object], signs: Signs = HTML) -> str:
    """The whole page: `pieces` are in its language already, and an empty one counts as absent; `values` are escaped."""
    present = [name for name, piece in pieces.items() if piece]
    key = (
        template,
        signs.value[0],
        json.dumps([present, values], ensure_ascii=False, sort_keys=True),
        version_of("jinja2"),
    )
    frame = _frames.get(*key)
    if frame is None:
        frame = _filled(template, list(pieces), present, values, signs)
        _frames.put(frame, *key)
    whole = "".join(part if place % 2 == 0 else pieces[part] for place, part in enumerate(frame))
    return _CONTROLS.sub("\ufffd", whole)


def _filled(
    template: str, names: list[str], present: list[str], values: Mapping[str, object], signs: Signs
) -> list[str]:
    """The frame in parts: text, the name of a piece, text, and so on."""
    from jinja2 import Environment, StrictUndefined, TemplateError, TemplateSyntaxError
    from markupsafe import Markup

    mark = f"piece-{secrets.token_hex(16)}-"  # which no value can know
    environment = Environment(
        *signs.block, *signs.value, *signs.comment,
        trim_blocks=not signs.escapes, lstrip_blocks=not signs.escapes, autoescape=signs.escapes, keep_trailing_newline=True, undefined=StrictUndefined,
    )  # fmt: skip
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

"""What readers pick given values with: a field a given, for the desk and for pages that carry their controls."""

from __future__ import annotations

import datetime
from html import escape

from wornpage.settings.givens import Declared, as_written

_STOPS = 500
"""A slider has no more places than this; a number with more is typed."""
_LONG = 60
"""Letters from which a text has more than one line."""


def fields(declared: dict[str, Declared], given: dict[str, object]) -> str:
    """A field for each given, with the values it has now."""
    return "".join(field(one, given.get(name, one.default)) for name, one in declared.items())


def field(one: Declared, value: object) -> str:
    """One given: its name for people, what to pick it with, help, and room for what is wrong with it."""
    name, words = escape(one.name), escape(said_name(one))
    about = f'<p class="help" id="help-{name}">{escape(one.help)}</p>' if one.help else ""
    wrong = f'<p class="wrong" id="wrong-{name}" hidden></p>'
    described = " ".join(filter(None, (f"help-{name}" if one.help else "", f"wrong-{name}")))
    bound = f'name="{name}" aria-describedby="{described}"'
    if one.kind == "list" and one.one_of:
        picks = "".join(_pick(one, item, value) for item in one.one_of)
        legend = f"<legend>{words}</legend>"
        return f'<fieldset class="given" data-given="{name}" data-kind="picks" aria-describedby="{described}">{legend}{picks}{about}{wrong}</fieldset>'
    if one.kind == "yes/no":
        ticked = " checked" if value else ""
        label = f'<label><input type="checkbox" value="yes" {bound}{ticked}> {words}</label>'
        return f'<div class="given" data-given="{name}" data-kind="yes/no">{label}{about}{wrong}</div>'
    control = _control(one, value, f'id="of-{name}" {bound}')
    kind = "list" if one.kind == "list" else "one"
    return f'<div class="given" data-given="{name}" data-kind="{kind}"><label for="of-{name}">{words}</label>{control}{about}{wrong}</div>'


def said_name(one: Declared) -> str:
    """What people call a given: its title, or its name as words."""
    words = one.title or one.name.replace("-", " ").replace("_", " ")
    return words[:1].upper() + words[1:]


def _pick(one: Declared, item: object, value: object) -> str:
    ticked = " checked" if isinstance(value, list) and item in value else ""
    shown = escape(_text(item))
    return f'<label><input type="checkbox" name="{escape(one.name)}" value="{shown}"{ticked}> {shown}</label>'


def _control(one: Declared, value: object, bound: str) -> str:
    needed = " required" if one.required else ""
    if one.one_of:
        options = "".join(_option(item, value) for item in one.one_of)
        empty = "" if " selected>" in options else '<option value="" selected disabled>…</option>'
        return f"<select {bound}{needed}>{empty}{options}</select>"
    if one.kind in {"number", "whole number"}:
        return _number(one, value, bound + needed)
    shown = escape(_text(value))
    if one.kind == "date":
        return f'<input type="date" {bound}{needed} value="{shown}"{_ends(one)}>'
    if one.kind == "list":
        return f'<input type="text" {bound}{needed} value="{escape(", ".join(map(_text, value if isinstance(value, list) else ())))}">'
    if len(shown) > _LONG or "\n" in shown:
        return f'<textarea rows="4" {bound}{needed}>\n{shown}</textarea>'
    return f'<input type="text" {bound}{needed} value="{shown}">'


def _option(item: object, value: object) -> str:
    chosen = " selected" if item == value and type(item) is type(value) else ""
    return f'<option value="{escape(_text(item))}"{chosen}>{escape(_text(item))}</option>'


def _number(one: Declared, value: object, bound: str) -> str:
    step = one.step or (1 if one.kind == "whole number" else None)
    unit = f'<span class="unit">{escape(one.unit)}</span>' if one.unit else ""
    shown = escape(_text(value))
    if one.least is not None and one.most is not None and value is not None:
        step = step or _nice((one.most - one.least) / 100)
        if 0 < (one.most - one.least) / step <= _STOPS and _is_a_stop(value, one.least, one.most, step):
            told = f'<output for="of-{escape(one.name)}">{shown}</output>'
            return f'<span class="slider"><input type="range" {bound} value="{shown}"{_ends(one)} step="{_text(step)}">{told}{unit}</span>'
    return f'<span class="number-field"><input type="number" {bound} value="{shown}"{_ends(one)} step="{_text(step) if step else "any"}">{unit}</span>'


def _is_a_stop(value: object, least: float, most: float, step: float) -> bool:
    """Whether a slider can stand at a value, which may be whatever somebody wrote: it would show another otherwise."""
    try:
        number = float(str(value))
    except ValueError:
        return False
    if not least <= number <= most:
        return False
    places = (number - least) / step
    return abs(places - round(places)) < 1e-6


def _nice(step: float) -> float:
    """A step of 1, 2 or 5 times a power of ten, no larger than this one."""
    power = 10.0 ** int(f"{step:e}".partition("e")[2]) if step > 0 else 1.0
    nice = next((times * power for times in (5, 2, 1) if times * power <= step * 1.000001), power)
    return float(f"{nice:.6g}")


def _ends(one: Declared) -> str:
    low = f' min="{escape(_text(one.least))}"' if one.least is not None else ""
    high = f' max="{escape(_text(one.most))}"' if one.most is not None else ""
    return low + high


def _text(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, datetime.date):
        return value.isoformat()
    return str(as_written(value))

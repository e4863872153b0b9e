"""What a session of R shows, as data: tables, models, figures, answers."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import Any

from wornpage.session.fitted import Fit, Term, fitted, level_of
from wornpage.session.tabling import finished, laid_out
from wornpage.tree.brackets import asked_in, quoted
from wornpage.tree.labelled import label_of

Told = dict[str, Any]
_SURFACE = re.compile(rb"(surface)(\d+)")
_EMPTY = re.compile(rb'<path [^>]*\bd=""[^>]*/>')


def several(value: object) -> list[Any]:
    """A vector as a list, whether it holds one thing or many."""
    if value is None:
        return []
    return list(value) if isinstance(value, list | tuple) else [value]


def mapping(value: object) -> dict[str, Any]:
    """A list with names as a mapping; an empty one has none."""
    return value if isinstance(value, dict) else {}


def answer(told: Told) -> Told:
    """A value in a sentence as sessions tell it, with the format that is asked for applied."""
    value, form = told.get("value"), told.get("form") or ""
    if told["type"] == "missing" or value is None:
        return {"type": "missing", "value": None}
    if told["type"] == "whole":
        value = int(value)
    if form:
        return {"type": "text", "value": format(value, form)}
    return {"type": told["type"], "value": value}


def trouble_with(answers: object) -> str | None:
    """What is wrong with the formats that values in words are to have; None if they fit."""
    try:
        for one in several(answers):
            answer(one)
    except ValueError as error:
        return str(error)
    return None


def failure(told: Told) -> Told:
    """What went wrong, as sessions tell it."""
    frames = [
        {**frame, "line": int(frame["line"]), "column": int(frame["column"])} for frame in several(told["frames"])
    ]
    raised = {"kind": told["kind"], "message": told["message"] or "", "frames": frames}
    rest = {part: told.get(part) or "" for part in ("name", "status", "hint", "missing")}
    return {"kind": told["kind"], "chain": [raised], **rest}


def words(told: Told) -> Told:
    """Words of the author's with what their marks came to."""
    return {"text": told["text"], "answers": [answer(one) for one in several(told.get("answers"))]}


def table(message: Told) -> Told:
    """The table that a message tells of, with its looks. Raises `ValueError` for a look that it cannot have."""
    told = _teller(message)
    made = _table(message["table"])
    looks = mapping(message.get("looks"))
    by_name = {name: _look(name, value) for name, value in looks.items() if value is not None}
    rest = {name: by_name.get(name) for name in ("decimals", "heads", "align", "forms", "notes")}
    _remark(made, message["table"].get("remarks"), told)
    made = laid_out(
        made, told, spans=by_name.get("spans"), units=by_name.get("units"), intervals=by_name.get("intervals"),
        groups=by_name.get("groups"), **rest,
    )  # fmt: skip
    made = {**made, "cell": message["cell"]} if message.get("cell") else made
    return _captioned(made, message, told)


def model(message: Told) -> Told:
    """The table of one fit or several. Raises `ValueError` for looks that it cannot have."""
    told = _teller(message)
    looks = mapping(message.get("looks"))
    interval = looks.get("interval")
    level_of(interval)
    heads = [told(name) for name in several(looks.get("names"))] or None
    terms = {name: told(text) for name, text in mapping(looks.get("terms")).items()}
    read = [_fit(one) for one in several(message["fits"])]
    if interval is None and heads is None and len(read) == 1 and any(t.low is not None for t in read[0].terms.values()):
        interval = several(message["fits"])[0].get("level") or 0.95
    made = fitted(
        read, heads, terms, leave_out=several(looks.get("leave_out")), interval=interval, stars=bool(looks.get("stars")),
        decimals=3 if looks.get("decimals") is None else int(looks["decimals"]),
    )  # fmt: skip
    _remark(made, message.get("remarks"), told)
    made = finished(made, told, notes=_look("notes", looks.get("notes")))
    return _captioned(made, message, told)


def _remark(made: Told, remarks: object, told: Callable[[object], Told]) -> None:
    """What R says of a table stands below it, before the author's own notes."""
    if remarks:
        made["notes"] = [*made.get("notes", ()), *({"words": told(one)} for one in dict.fromkeys(several(remarks)))]


def figure(item: Told, data: bytes) -> tuple[Told, bytes]:
    """A figure as sessions tell it; surfaces are counted anew in each, since R counts them over a whole session."""
    if item["format"] == "svg":
        numbers: dict[bytes, bytes] = {}
        data = _EMPTY.sub(b"", data)
        data = _SURFACE.sub(lambda m: m[1] + numbers.setdefault(m[2], b"%d" % (len(numbers) + 1)), data)
    made = {**item, "width": float(item["width"]), "height": float(item["height"]), "alt": item.get("alt") or ""}
    made["caption"] = words(item["caption"]) if item.get("caption") else None
    made["label"] = label_of(item.get("label") or "")
    return made, data


def _fit(told: Told) -> Fit:
    made = Fit()
    for term in several(told["terms"]):
        parts = (term.get(part) for part in ("estimate", "error", "p", "low", "high"))
        made.terms[term["name"]] = Term(*parts)
    made.foot = {name: value for name, value in mapping(told.get("foot")).items() if value is not None}
    return made


def _table(told: Told) -> Told:
    columns = [
        {**column, "heads": several(column["heads"]), "cells": [_cell(c) for c in several(column["cells"])]}
        for column in several(told["columns"])
    ]
    made: Told = {"columns": columns, "left_out": int(told.get("left_out") or 0)}
    if told.get("foot"):
        made["foot"] = told["foot"]
    for part in ("groups", "notes"):
        if told.get(part):
            made[part] = several(told[part])
    return made


def _cell(cell: object) -> object:
    """A cell; a list with names is one with looks of its own."""
    return cell if not isinstance(cell, list) else (cell[0] if cell else None)


def _look(name: str, value: Any) -> object:
    """A look as `tabling` takes it: whole numbers of places, and lists where R has one thing or many."""
    if name == "decimals" and isinstance(value, float):
        return int(value)
    if name == "decimals" and isinstance(value, dict):
        return {key: int(places) for key, places in value.items()}
    if name == "notes" and value is not None and not isinstance(value, dict):
        return several(value)
    if name in {"spans", "intervals"}:
        return {key: several(one) for key, one in mapping(value).items()}
    return value


def _teller(message: Told) -> Callable[[object], Told]:
    """Makes told words of a text: those with marks have been answered where the code stands."""
    known = {one["text"]: words(one) for one in several(message.get("words"))}
    return lambda text: known.get(str(text)) or {"text": str(text), "answers": []}


def _captioned(made: Told, message: Told, told: Callable[[object], Told]) -> Told:
    caption = message.get("caption")
    return {**made, "caption": told(caption) if caption else None, "label": label_of(message.get("label") or "")}


def marks_in(text: str) -> Sequence[Told]:
    """The value marks in a text: expression and form."""
    return [{"expression": expression, "form": quoted(form)} for expression, form in asked_in(text)]

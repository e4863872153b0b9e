"""What pydantic found wrong, as problems with a place and a way out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from pydantic import BaseModel, ValidationError

from wornpage.settings.yaml_text import Path
from wornpage.tree.problem import Problem, near_miss
from wornpage.tree.span import Span

_ITS_LABEL = "Its label begins with `#`, as in `python run #weekly-loans`."
_ITS_CAPTION = "Its caption is a line below it that begins with `Caption:`."
_SAID_ELSEWHERE = {
    ("option", "label"): _ITS_LABEL,
    ("option", "name"): _ITS_LABEL,
    ("option", "id"): _ITS_LABEL,
    ("option", "caption"): _ITS_CAPTION,
    ("option", "title"): _ITS_CAPTION,
}
"""What is no key, by what keys are called and the word: how the same is said here."""


def problems_of(
    error: ValidationError,
    model: type[BaseModel],
    place: Callable[[Path], Span],
    key_place: Callable[[Path], Span],
    noun: str,
) -> list[Problem]:
    """One problem for each fault; `noun` is what a key is called here, such as `option`."""
    problems = []
    for fault in error.errors(include_url=False):
        path: Path = tuple(fault["loc"])
        key = str(path[-1]) if path else ""
        if fault["type"] == "extra_forbidden":
            known = known_keys(model, path[:-1])
            hint = _SAID_ELSEWHERE.get((noun, key)) or near_miss(key, known) or f"Known here: {', '.join(known)}."
            problems.append(Problem(key_place(path), f"there is no {noun} {key!r}.", hint))
        elif fault["type"] == "missing":
            problems.append(Problem(place(path[:-1]), f"the {noun} {key!r} is missing here."))
        else:
            problems.append(_wrong_value(fault, path, place(path), noun))
    return problems


def _wrong_value(fault: Any, path: Path, span: Span, noun: str) -> Problem:
    names = [part for part in path if isinstance(part, str)]
    key = names[-1] if names else "front matter"
    given = fault["input"]
    shown = repr(given) if isinstance(given, str | int | float | bool) else "this"
    match fault["type"]:
        case "literal_error":
            allowed = [word.strip("' ") for word in fault["ctx"]["expected"].replace(" or ", ",").split(",")]
            hint = near_miss(str(given), allowed) or f"It takes {', '.join(allowed)}."
        case "value_error":
            words = str(fault["ctx"]["error"])
            hint = words[0].upper() + words[1:] + ("?" if "did you mean" in words else ".")
        case "model_type" | "dict_type" | "model_attributes_type":
            hint = "It takes keys of its own, each on a line below it, indented."
        case _:
            hint = f"{fault['msg'].replace('Input should be', 'It should be')}."
    return Problem(span, f"the {noun} {key!r} cannot be {shown}.", hint)


def known_keys(model: type[BaseModel], path: Path) -> list[str]:
    """The keys a mapping may have that lies at `path` under `model`."""
    current: object = model
    for part in path:
        current = _inner(current, part)
    if isinstance(current, type) and issubclass(current, BaseModel):
        return [field.alias or name for name, field in current.model_fields.items()]
    return []


def _inner(model: object, part: str | int) -> object:
    """The model below `part`; lists and mappings lead to what they hold."""
    if not (isinstance(model, type) and issubclass(model, BaseModel)):
        return model
    for name, field in model.model_fields.items():
        if part in {name, field.alias}:
            return _model_in(field.annotation)
    return model  # a place in a list, or a name in a mapping: what it holds is the model


def _model_in(annotation: object) -> object:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return annotation
    for inner in getattr(annotation, "__args__", ()):
        found = _model_in(inner)
        if found is not None:
            return found
    return None

"""Checking what was set against `models`, with pydantic; and the JSON Schema of the same.

Imported only when something has to be checked that was not checked before.
"""

from __future__ import annotations

import types
from collections.abc import Callable, Mapping
from functools import cache
from typing import Annotated, Any, Union, get_args, get_origin, get_type_hints

import msgspec
from pydantic import BaseModel, ConfigDict, Field, ValidationError, create_model

from wornpage.settings.faults import problems_of
from wornpage.settings.yaml_text import Path
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span


def check(
    kind: type[msgspec.Struct],
    data: Mapping[str, object],
    place: Callable[[Path], Span],
    key_place: Callable[[Path], Span],
    noun: str,
) -> tuple[dict[str, object], list[Problem]]:
    """What `data` sets of the fields of `kind`, by field name and only that, and all that is wrong with it.

    A key at fault counts as not set, so that all faults are found at once. `noun` is what a key is called here.
    """
    model = model_of(kind)
    try:
        return _set_values(model.model_validate(data)), []
    except ValidationError as error:
        problems = problems_of(error, model, place, key_place, noun)
        faulty = {fault["loc"][0] for fault in error.errors()}
        rest = {key: value for key, value in data.items() if key not in faulty}
        return _set_values(model.model_validate(rest)), problems


def _set_values(model: BaseModel) -> dict[str, object]:
    return model.model_dump(mode="json", exclude_unset=True)


@cache
def model_of(kind: type[msgspec.Struct]) -> type[BaseModel]:
    """The pydantic model with the fields of `kind`; unknown keys are faults."""
    hints = get_type_hints(kind, include_extras=True)
    fields: dict[str, Any] = {}
    for field in msgspec.structs.fields(kind):
        default = field.default if field.default is not msgspec.NODEFAULT else ...
        if field.default_factory is not msgspec.NODEFAULT:
            default = field.default_factory()
        alias = field.name.rstrip("_").replace("_", "-")  # `from_` is `from`, which no field can be called
        words = meaning(hints[field.name])
        fields[field.name] = (_translated(hints[field.name]), Field(default, alias=alias, description=words or None))
    config = ConfigDict(extra="forbid", ser_json_inf_nan="constants")
    return create_model(kind.__name__, __config__=config, __doc__=kind.__doc__, **fields)


def meaning(hint: object) -> str:
    """The words in a setting's annotation."""
    return next((part for part in getattr(hint, "__metadata__", ()) if isinstance(part, str)), "")


def _translated(hint: object) -> object:
    """A type with models in place of the classes of `models`."""
    if isinstance(hint, type) and issubclass(hint, msgspec.Struct):
        return model_of(hint)
    origin, arguments = get_origin(hint), get_args(hint)
    if origin is Annotated:
        inner, *extras = arguments
        kept = tuple(extra for extra in extras if not isinstance(extra, str))
        return Annotated[(_translated(inner), *kept)] if kept else _translated(inner)
    if origin in {Union, types.UnionType}:
        return Union[tuple(_translated(argument) for argument in arguments)]  # noqa: UP007
    if origin in {list, dict, tuple}:
        return origin[tuple(_translated(argument) for argument in arguments)]
    return hint

"""JSON Schemas of what may be set (draft 2020-12), from the same models that check it: for editors that read YAML."""

from __future__ import annotations

from typing import Any

from pydantic.json_schema import GenerateJsonSchema

from wornpage.settings.checking import model_of
from wornpage.settings.givens import KINDS
from wornpage.settings.models import ChunkOptions, PageSettings, ProjectSettings
from wornpage.settings.volume import VolumeSettings
from wornpage.tree.version import VERSION

MODELS = {"page": PageSettings, "chunk": ChunkOptions, "project": ProjectSettings, "volume": VolumeSettings}
_TITLES = {
    "page": "The front matter of a page", "chunk": "The options of a chunk", "project": "worn.yaml", "volume": "volume.yaml",
}  # fmt: skip

_PLAIN = {"type": ["string", "number", "boolean"]}
_GIVEN = {
    "description": "A plain value, or a mapping that says more.",
    "anyOf": [
        _PLAIN,
        {"type": "array", "items": _PLAIN},
        {
            "type": "object",
            "additionalProperties": False,
            "properties": {
                "default": {"anyOf": [_PLAIN, {"type": "array", "items": _PLAIN}], "description": "The value otherwise."},
                "type": {"enum": list(KINDS), "description": "What kind of value it is, where that is not plain."},
                "one-of": {
                    "description": "The values allowed: a list, or a column of a file.",
                    "anyOf": [
                        {"type": "array", "items": _PLAIN},
                        {
                            "type": "object",
                            "properties": {"file": {"type": "string"}, "column": {"type": "string"}},
                            "required": ["file", "column"],
                            "additionalProperties": False,
                        },
                    ],
                },
                "from": {**_PLAIN, "description": "The least value."},
                "to": {**_PLAIN, "description": "The largest value."},
                "step": {"type": ["number", "string"], "description": "Values lie so far apart."},
                "unit": {"type": "string", "description": "What it is measured in."},
                "title": {"type": "string", "description": "Its name for readers."},
                "help": {"type": "string", "description": "What it means."},
                "required": {"anyOf": [{"type": "boolean"}, {"enum": ["yes", "no"]}], "description": "It must be given."},
            },
        },
    ],
}  # fmt: skip


def schema_of(kind: str) -> dict[str, Any]:
    """The schema of one of `MODELS`."""
    schema = model_of(MODELS[kind]).model_json_schema(by_alias=True, schema_generator=_Quietly)
    _clean(schema)
    if kind == "page":
        schema["properties"]["given"]["additionalProperties"] = _GIVEN
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "$id": f"urn:wornpage:{kind}:{VERSION}",
        **schema,
        "title": f"Worn Page {VERSION}: {_TITLES[kind]}",
    }


class _Quietly(GenerateJsonSchema):
    """Defaults that are mappings need no word of warning: they are left out."""

    ignored_warning_kinds = {"non-serializable-default", "skipped-choice"}


def _clean(schema: object) -> None:
    """Take away titles made from names, and defaults, which are the values and not what is written for them."""
    if isinstance(schema, list):
        for item in schema:
            _clean(item)
    if not isinstance(schema, dict):
        return
    if isinstance(schema.get("title"), str):
        del schema["title"]
    if not isinstance(schema.get("default"), str) or not schema["default"]:
        schema.pop("default", None)
    for key, item in schema.items():
        if key == "properties":
            for one in item.values():
                _clean(one)
        else:
            _clean(item)

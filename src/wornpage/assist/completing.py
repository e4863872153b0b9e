"""What may stand at a place: labels, keys of works, givens, options and settings."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from msgspec import Struct

from wornpage.assist.abroad import labels_abroad
from wornpage.assist.document import Document
from wornpage.settings.schema import schema_of
from wornpage.source.marks.verbs import opening
from wornpage.sources.collecting import key_when_taken
from wornpage.sources.entries import Entry

_OPEN_MARK = re.compile(opening("see", "cite") + r"+[^{}]*$")
_GIVEN = re.compile(r"\bgiven[.$](\w*)$")
_HEADER = re.compile(r"^\s*(?:`{3,}|~{3,})\s*\w+\s+run\b(?P<rest>.*)$")
_KEY = re.compile(r"^(\s*)([\w-]+):\s*(.*)$")


class Suggestion(Struct, frozen=True):
    """One thing that may stand here."""

    text: str
    detail: str = ""
    help: str = ""
    found_by: str = ""
    """Words by which it is found, where that is more than its text."""
    kind: str = "value"
    taken: str = ""
    """For a work of the author's library: its key there. Where it is chosen it is to be written into the page's bibliography."""


def suggestions(document: Document, line: int, column: int) -> list[Suggestion]:
    """What may stand at a place, counted from 0."""
    before = document.before(line, column)
    if mark := _OPEN_MARK.search(before):
        return list(_labels(document) if mark[1] == "see" else _works(document))
    if _GIVEN.search(before):
        declared = document.settings.declared.values()
        return [
            Suggestion(one.name.replace("-", "_"), one.kind, one.help or one.title, kind="given") for one in declared
        ]
    if header := _HEADER.match(before):
        return list(_options(header["rest"]))
    if document.schema:
        return list(_settings(document, line, before))
    if 0 < line < document.front_lines - 1 or (
        line and not document.front_lines and document.lines[0].strip() == "---"
    ):
        return list(_settings(document, line, before))
    return []


def _labels(document: Document) -> Iterator[Suggestion]:
    for one in document.labels.values():
        yield Suggestion(
            one.label, one.words or one.kind, f"{one.kind} in line {one.span.line}", f"{one.label} {one.words}", "label"
        )
    for label, there in labels_abroad(document).items():
        if label not in document.labels and label.rpartition("/")[2] == there.at.label:
            words, kind = there.at.words, there.at.kind
            yield Suggestion(label, words or kind, f"{kind} in {there.path.name}", f"{label} {words}", "label")


def _works(document: Document) -> Iterator[Suggestion]:
    for entry in document.library.entries.values():
        told = told_of(entry)
        yield Suggestion(entry.key, told, told, f"{entry.key} {told}", "work")
    for entry in document.collection.entries.values():
        key, is_there = key_when_taken(entry, document.library)
        if not is_there:
            told = told_of(entry)
            yield Suggestion(key, f"{told} (in your library)", told, f"{key} {told}", "work", entry.key)


def told_of(entry: Entry) -> str:
    """Authors, year and title of a work in a line."""
    names = [str(name.get("family") or name.get("literal") or "") for name in entry.data.get("author", [])]
    parts = entry.data.get("issued", {}).get("date-parts") or [[""]]
    title = re.sub(r"<[^>]+>", "", str(entry.data.get("title", "")))
    return f"{', '.join(filter(None, names)) or '?'} {parts[0][0]}: {title}".replace(" :", ":")


# --- from the schemas -------------------------------------------------------------------------


def _options(rest: str) -> Iterator[Suggestion]:
    """Options of a chunk, or the values of the one that has begun."""
    properties = schema_of("chunk")["properties"]
    begun = re.search(r"([\w-]+)=(\S*)$", rest)
    if begun:
        yield from _values(properties.get(begun[1], {}))
        return
    for key, schema in properties.items():
        if not re.search(rf"\s{re.escape(key)}=", rest):
            yield Suggestion(f"{key}=", _choices(schema), schema.get("description", ""), kind="option")


def _settings(document: Document, line: int, before: str) -> Iterator[Suggestion]:
    """Keys of the front matter at this depth, or the values of the one in this line."""
    whole = schema_of(document.schema or "page")
    here = _KEY.match(before)
    path = _path(document, line, len(before) - len(before.lstrip()))
    if here:
        yield from _values(_at([*path, here[2]], whole))
        return
    schema = _at(path, whole)
    for key, one in schema.get("properties", {}).items():
        yield Suggestion(f"{key}:", _choices(_resolved(one, whole)), one.get("description", ""), kind="setting")


def _path(document: Document, line: int, depth: int) -> list[str]:
    """The keys above a line that it stands under, outermost first."""
    path: list[str] = []
    for above in reversed(document.lines[0 if document.schema else 1 : line]):
        match = _KEY.match(above)
        if match and len(match[1]) < depth:
            path.insert(0, match[2])
            depth = len(match[1])
    return path


def _at(path: list[str], whole: dict[str, Any]) -> dict[str, Any]:
    schema = whole
    for key in path:
        further = schema.get("properties", {}).get(key) or schema.get("additionalProperties") or {}
        schema = _resolved(further, whole) if isinstance(further, dict) else {}
    return schema


def _resolved(schema: dict[str, Any], whole: dict[str, Any]) -> dict[str, object]:
    """A schema with what it refers to, and of several the one with keys."""
    if "$ref" in schema:
        schema = whole["$defs"][schema["$ref"].rpartition("/")[2]]
    for one in schema.get("anyOf", ()):
        found = _resolved(one, whole)
        if "properties" in found:
            return found
    return schema


def _values(schema: dict[str, Any]) -> Iterator[Suggestion]:
    for value in _enumerated(schema):
        yield Suggestion(value, schema.get("description", ""))


def _enumerated(schema: dict[str, Any]) -> list[str]:
    found = [value for value in schema.get("enum", ()) if isinstance(value, str)]
    for one in schema.get("anyOf", ()):
        found += _enumerated(one)
    return found


def _choices(schema: dict[str, object]) -> str:
    return " | ".join(_enumerated(schema))

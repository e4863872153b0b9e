"""A page's text with another default for one of its givens; all else stays as it is, to the byte."""

from __future__ import annotations

import json
import re
from typing import Any

from wornpage.source import Page
from wornpage.tree.problem import UsageError

_PLAIN = re.compile(r"[A-Za-zÀ-ÿ][\w .À-ÿ-]*[\wÀ-ÿ]$|[A-Za-zÀ-ÿ]$")
_TAKEN = {"yes", "no", "true", "false", "null", "on", "off"}
"""Words that YAML, or people, take for something else than a text."""


def with_default(page: Page, name: str, value: object, kind: str) -> str:
    """The whole text of `page` with a given's default replaced; `value` is as written, `kind` the given's type.

    Raises `UsageError` where that cannot be, with why.
    """
    front = page.front.text
    begin, end = _extent(front, name)
    written = _list(value) if isinstance(value, list) else _scalar(str(value), kind)
    at = page.text.find(front)
    if not front or at < 0:
        raise UsageError(f"the front matter that declares {name} cannot be found in {page.name}.")
    return page.text[: at + begin] + written + page.text[at + end :]


def _extent(front: str, name: str) -> tuple[int, int]:
    """Where the default stands in the front matter."""
    from ruamel.yaml import YAML
    from ruamel.yaml.error import YAMLError

    try:
        root = YAML(typ="safe", pure=True).compose(front)
    except YAMLError:
        raise UsageError("the front matter cannot be read.") from None
    declared = _entry(_entry(root, "given"), name)
    value = _entry(declared, "default") if type(declared).__name__ == "MappingNode" else declared
    if value is None:
        raise UsageError(f"{name} has no default that could be replaced: write `default:` where it is declared.")
    if type(value).__name__ == "MappingNode" or (type(value).__name__ == "SequenceNode" and not value.flow_style):
        raise UsageError(f"the default of {name} stands in several lines: change it by hand.")
    if getattr(value, "style", None) in {"|", ">"}:
        raise UsageError(f"the default of {name} stands in several lines: change it by hand.")
    return value.start_mark.index, value.end_mark.index


def _entry(node: Any, key: str) -> Any:
    if type(node).__name__ != "MappingNode":
        return None
    return next((value for one, value in node.value if one.value == key), None)


def _list(values: list[object]) -> str:
    return f"[{', '.join(_scalar(str(value), 'text') for value in values)}]"


def _scalar(text: str, kind: str) -> str:
    """A text as YAML that is read as a value of this type again."""
    if kind != "text":
        return text
    return text if _PLAIN.match(text) and text.lower() not in _TAKEN else json.dumps(text, ensure_ascii=False)

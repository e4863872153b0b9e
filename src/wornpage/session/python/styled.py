"""Styled frames of pandas: the formats that their author gave to cells, their caption, and what is hidden."""

from __future__ import annotations

from typing import Any


def styled_table(styler: Any, table: dict[str, Any], rows: int) -> dict[str, object]:
    """`table`, the plain one of the styler's frame, with its formats; numbers stay set as numbers."""
    columns = table["columns"]
    own = [column for column in columns if not column["is_index"]]
    formats = getattr(styler, "_display_funcs", {})
    hidden = set(getattr(styler, "hidden_columns", ()))
    for place, column in enumerate(own):
        written = [row for row in range(len(column["cells"])) if (row, place) in formats]
        for row in written:
            value = styler.data.iloc[row, place]
            column["cells"][row] = _formatted(formats[row, place], value)
        if written and column["kind"] == "number":
            column["align"] = "right"
        if written:
            column["kind"] = "text"
    index = [] if all(getattr(styler, "hide_index_", [False])) else [one for one in columns if one["is_index"]]
    shown = [*index, *(column for place, column in enumerate(own) if place not in hidden)]
    made = {**table, "columns": shown}
    if getattr(styler, "_todo", ()):  # what would colour cells
        made["remark"] = "is shown without the colours that its style gives to cells"
    caption = getattr(styler, "caption", None)
    return {**made, "caption": {"text": _as_prose(caption)}} if isinstance(caption, str) and caption else made


def _formatted(write: Any, value: object) -> str:
    text = str(write(value))
    return text.replace("-", "\u2212", 1) if text.startswith("-") and text[1:2].isdigit() else text


def _as_prose(text: str) -> str:
    """Plain words as Markdown that says just them."""
    return "".join("\\" + letter if letter in "\\`*_{}[]<>#|$~^" else letter for letter in text)

"""Where a mark ends and how its words divide. Imports nothing: sessions use it too."""

from __future__ import annotations

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Iterator


def value_marks(text: str) -> Iterator[tuple[int, int, bool]]:
    """Where each value mark of a text begins and ends, and whether a backslash takes its meaning.

    One that is never closed ends at -1, and is the last.
    """
    at = text.find("{= ")
    while at >= 0:
        end = closing_brace(text, at, len(text))
        yield at, end, text[at - 1 : at] == "\\"
        at = text.find("{= ", end) if end > 0 else -1


def closing_brace(text: str, at: int, end: int) -> int:
    """The place after the brace that closes the one at `at`, strings and brackets respected; -1 for none."""
    depth, position = 0, at
    while position < end:
        letter = text[position]
        if letter in "([{":
            depth += 1
        elif letter in ")]}":
            depth -= 1
            if depth == 0:
                return position + 1 if letter == "}" else -1
        elif letter in "\"'":
            closing = _string_end(text, position, end)
            position = closing if closing > 0 else position
        position += 1
    return -1


def _string_end(text: str, at: int, end: int) -> int:
    """Where the quote that closes the one at `at` stands; -1 for none (an apostrophe)."""
    position = at + 1
    while position < end:
        if text[position] == "\\":
            position += 1
        elif text[position] == text[at]:
            return position
        position += 1
    return -1


def split_form(body: str) -> tuple[str, str]:
    """Expression and form: the form follows the last ` as ` outside strings and brackets."""
    cut, depth, quote, position = -1, 0, "", 0
    while position < len(body):
        letter = body[position]
        if quote:
            if letter == "\\":
                position += 1
            elif letter == quote:
                quote = ""
        elif letter in "\"'":
            quote = letter
        elif letter in "([{":
            depth += 1
        elif letter in ")]}":
            depth -= 1
        elif depth == 0 and body.startswith(" as ", position):
            cut = position
        position += 1
    if cut < 0:
        return body, ""
    return body[:cut].strip(), body[cut + 4 :].strip()


def asked_in(text: str) -> list[tuple[str, str]]:
    """Expression and form of each value mark in words of the author's."""
    return [
        split_form(" ".join(part.strip() for part in text[start + 3 : end - 1].split("\n")).strip())
        for start, end, is_escaped in value_marks(text)
        if end > 0 and not is_escaped
    ]


def quoted(form: str) -> str:
    """The format in a form that is one in quotes; empty for any other form."""
    return form[1:-1] if form[:1] in {'"', "'"} else ""

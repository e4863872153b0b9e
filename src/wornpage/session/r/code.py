"""What can be told of R code by reading it."""

from __future__ import annotations

import datetime
import hashlib
import json
import re
from collections.abc import Iterable, Mapping, Sequence
from functools import lru_cache

from wornpage.session.r.tokens import Kind, Token, tokens

_ASSIGNS = frozenset({"<-", "=", "<<-", ":="})
_ASSIGNS_BACK = frozenset({"->", "->>"})
_RESERVED = frozenset(
    {
        "if",
        "else",
        "repeat",
        "while",
        "function",
        "for",
        "next",
        "break",
        "TRUE",
        "FALSE",
        "NULL",
        "Inf",
        "NaN",
        "NA",
        "in",
    }
)
_ASKS_FOR_ALL = frozenset({
    "ls", "objects", "exists", "get0", "mget", "apropos", "eapply", "globalenv", ".GlobalEnv", "sys.function", "environment", "topenv",
    "as.environment", "parent.env", "sys.frames", "find", "ls.str", "save.image", "global_env", "current_env", "caller_env", "env_names",
    "env_has", "browser", "mclapply",
})  # fmt: skip
"""Words of code that may ask which names there are."""
_WRITERS = re.compile(
    r"\b(?:fwrite|write_\w+|write\.\w+|saveRDS|save|ggsave|png|pdf|svg|jpeg|tiff|bmp|cairo_pdf|sink|saveWidget|writeLines|dump|dput)\s*\("
)
_CLOCK = re.compile(r"\b(?:Sys\.time|Sys\.Date|date|timestamp|proc\.time|now|today)\s*\(\s*\)")
_PLACES = frozenset(
    {"getwd", "normalizePath", "here", "file_path_as_absolute", "path_abs", "path_wd", "list.files", "R.home"}
)


class RCode:
    """How code of R is read."""

    def normal_form(self, code: str) -> str:
        """A hash that is the same for code which does the same: without comments, spaces and empty lines."""
        return hashlib.blake2b(
            "\0".join(_normal(tokens(code))).encode("utf-8", "surrogatepass"), digest_size=16
        ).hexdigest()

    def mentioned(self, code: str) -> frozenset[str]:
        """Names, and texts that may be names."""
        return _mentioned(code)

    def bound(self, code: str) -> set[str]:
        """Names that it binds outside of functions."""
        return set(_bound(_without_bodies(_bare(code))))

    def definitions(self, code: str) -> dict[str, set[str]]:
        """For each function that it defines: the names that are mentioned there."""
        row = _bare(code)
        found: dict[str, set[str]] = {}
        for place, token in enumerate(row[:-2]):
            if (
                token.kind is Kind.NAME
                and row[place + 1].text in _ASSIGNS
                and row[place + 2].text in {"function", "\\"}
            ):
                inside = row[place + 2 : _end_of_function(row, place + 2)]
                found[token.text] = {one.text for one in inside if one.kind in (Kind.NAME, Kind.TEXT)}
        return found

    def asks_for(self, code: str) -> frozenset[str]:
        """Nothing that would be noted for all."""
        return frozenset()

    def imported(self, code: str) -> frozenset[str]:
        """Nothing: files that it reads are told when they are read."""
        return frozenset()

    def clock(self, code: str) -> str:
        """A call that asks for the time, as written."""
        found = _CLOCK.search(_without_comments(code))
        return found[0] if found else ""

    def labels(self, code: str) -> tuple[frozenset[str], bool]:
        """Labels that its calls of `page` give; and whether there are others."""
        row = _bare(code)
        given = [
            row[at + 2 : at + 4]
            for start, token in enumerate(row[:-3])
            if [token.text, row[start + 1].text] == ["page", "$"]
            for at in range(start + 4, _end_of_brackets(row, start + 3) - 2)
            if [row[at].text, row[at + 1].text] == ["label", "="]
        ]
        texts = [one[0] for one in given if one[0].kind is Kind.TEXT and one[-1].text in {",", ")"}]
        return frozenset(one.text for one in texts), len(texts) < len(given)

    def alone(self, code: str, given: Mapping[str, object]) -> list[str]:
        """A list of given values, and a `page` that prints."""
        made: list[str] = []
        if given and re.search(r"\bgiven\$", code):
            made.append(
                f"given <- list({', '.join(f'{name} = {self.literal(value)}' for name, value in given.items())})"
            )
        if re.search(r"\bpage\$", code):
            shown = [
                f"{name} = function(x = NULL, ...) print(x)"
                for name in ("table", "summary", "crosstab", "model", "figure")
            ]
            said = [f'{name} = function(text, ...) cat(text, "\\n")' for name in ("prose", "heading")]
            tally = "tally = function(items, name = '', each = identity) lapply(items, each)"
            made.append(f"page <- list({', '.join([*shown, *said, tally])})")
        return made

    def literal(self, value: object) -> str:
        """A value as code."""
        match value:
            case None:
                return "NULL"
            case bool():
                return "TRUE" if value else "FALSE"
            case int():
                return f"{value}L" if abs(value) < 2**31 else repr(float(value))
            case float():
                return repr(value).replace("inf", "Inf").replace("nan", "NaN")
            case datetime.datetime():
                return f'as.POSIXct("{value:%Y-%m-%d %H:%M:%S}", tz = "UTC")'
            case datetime.date():
                return f'as.Date("{value.isoformat()}")'
            case list() | tuple():
                return f"c({', '.join(map(self.literal, value))})" if value else "list()"
        return json.dumps(str(value), ensure_ascii=False)

    def binding(self, values: Mapping[str, str], file: str | None, told: Sequence[str]) -> str:
        """Code that an insert begins with: its value is the file's name, and what it is told."""
        lines = [f"{_as_name(name)} <- {expression}" for name, expression in values.items()]
        return "\n".join([*lines, f"list({_file(file)}, list({', '.join(map(_as_name, told))}))"])


def asks_for_all(words: Iterable[str]) -> bool:
    """Whether code with these words may ask which names there are, beyond those it mentions."""
    return not _ASKS_FOR_ALL.isdisjoint(words)


def asks_where(words: Iterable[str]) -> bool:
    """Whether it may ask where the page's folder lies."""
    return not _PLACES.isdisjoint(words)


_IF_NONE = r"if\s*\(\s*!\s*(?:dir|file)\.exists\(\s*(?P<quote>[\"'])(?P<path>[^\"'\\\n]+)(?P=quote)\s*\)\s*\)\s*"
_MADE = r"dir\.create\(\s*[\"'](?P=path)[\"'][^()\n]*\)\s*"
_FOLDERS = (
    re.compile(rf"{_IF_NONE}{_MADE}(?:[;\n}}]|$)(?!\s*else\b)"),
    re.compile(rf"{_IF_NONE}\{{\s*{_MADE}\}}(?!\s*else\b)"),
    re.compile(
        r"(?:^|[;\n{]\s*)dir\.create\(\s*[\"'](?P<path>[^\"'\\\n]+)[\"'][^()\n]*showWarnings\s*=\s*F(?:ALSE)?\b[^()\n]*\)"
    ),
)
"""Folders that are made where there are none, with nothing else hanging on it."""


def only_written(code: str) -> tuple[str, ...]:
    """Files that it writes as a whole, by calls that are known to, before it names them in any other way."""
    code = _without_comments(code)
    found = [match["path"] for made in _FOLDERS for match in made.finditer(code)]
    for match in _WRITERS.finditer(code):
        depth, end = 1, match.end()
        while end < len(code) and depth:
            depth += (code[end] == "(") - (code[end] == ")")
            end += 1
        call = code[match.start() : end]
        if "append" in call:
            continue
        for token in tokens(call):
            if (
                token.kind is Kind.TEXT
                and re.search(r"[\w)]\.\w+$", token.text)
                and code.find(token.text) >= match.start()
            ):
                found.append(token.text)
    return tuple(found)


def _file(name: str | None) -> str:
    """The name of a file as code; what stands in braces in it is an expression."""
    if name is None:
        return "NULL"
    parts = [
        part[1:-1] if part.startswith("{") else json.dumps(part) for part in re.split(r"(\{[^{}]*\})", name) if part
    ]
    return f"paste0({', '.join(parts)})"


# --- tokens -----------------------------------------------------------------------------------


@lru_cache(maxsize=4096)
def _mentioned(code: str) -> frozenset[str]:
    row = tokens(code)
    names = {token.text for token in row if token.kind is Kind.NAME}
    texts = {
        token.text for token in row if token.kind is Kind.TEXT and len(token.text) < 100 and "\n" not in token.text
    }
    return frozenset((names | texts) - _RESERVED)


def _bare(code: str) -> list[Token]:
    """Tokens without ends of lines."""
    return [token for token in tokens(code) if token.kind is not Kind.END]


def _normal(row: list[Token]) -> list[str]:
    """Tokens as they count: an end of a line does where it may end an expression, and once."""
    found: list[str] = []
    open_: list[str] = []
    for token in row:
        if token.kind is Kind.END:
            if not (open_ and open_[-1] != "{") and found and found[-1] not in {"\n", "{", ";"}:
                found.append("\n")
            continue
        if token.text in {"(", "[", "{"} and token.kind is Kind.SIGN:
            open_.append(token.text)
        elif token.text in {")", "]", "}"} and token.kind is Kind.SIGN and open_:
            open_.pop()
            if token.text == "}" and found and found[-1] == "\n":
                found.pop()
        found.append(token.raw if token.kind is not Kind.TEXT else f'"{token.text}')
    while found and found[-1] == "\n":
        found.pop()
    return found


def _bound(row: list[Token]) -> Iterable[str]:
    depth = 0
    for place, token in enumerate(row):
        if token.kind is Kind.SIGN and token.text in "([":
            depth += 1
        elif token.kind is Kind.SIGN and token.text in ")]":
            depth -= 1
        follows = row[place + 1].text if place + 1 < len(row) else ""
        before = row[place - 1].text if place else ""
        if token.kind in (Kind.NAME, Kind.TEXT) and follows in _ASSIGNS and (follows != "=" or not depth):
            if before not in {"$", "@", "::", ":::"}:
                yield token.text
            elif place >= 2 and row[place - 2].kind is Kind.NAME:
                yield row[place - 2].text
        elif (token.kind is Kind.NAME and before in _ASSIGNS_BACK) or (
            token.kind is Kind.NAME and follows == "in" and before == "("
        ):
            yield token.text
        elif token.text in {"assign", "delayedAssign", "makeActiveBinding"} and follows == "(" and place + 2 < len(row):
            if row[place + 2].kind is Kind.TEXT:
                yield row[place + 2].text
        elif token.kind is Kind.SIGN and token.text in "])" and follows in {"<-", "<<-", "="} and not depth:
            name = _changed(row, place)
            if name:
                yield name


def _changed(row: list[Token], place: int) -> str:
    """The name that a part of is set: that before the bracket which closes here, or within it, as in `names(x) <- …`."""
    depth = 0
    for at in range(place, -1, -1):
        text = row[at].text if row[at].kind is Kind.SIGN else ""
        depth += (text in {"]", ")"}) - (text in {"[", "("})
        if depth:
            continue
        if row[place].text == ")" and at + 1 < place and row[at + 1].kind is Kind.NAME:
            return row[at + 1].text
        if at and text in {"[", "("} and row[at - 1].kind is Kind.NAME:
            owner = at - 1
            while owner >= 2 and row[owner - 1].text in {"$", "@"}:
                owner -= 2
            return row[owner].text if row[owner].kind is Kind.NAME else ""
        if text not in {"[", "("}:
            return ""
    return ""


def _without_bodies(row: list[Token]) -> list[Token]:
    """Tokens outside of functions."""
    found: list[Token] = []
    place = 0
    while place < len(row):
        if row[place].kind is Kind.NAME and row[place].text == "function" and row[place].raw == "function":
            place = _end_of_function(row, place)
        else:
            found.append(row[place])
            place += 1
    return found


def _end_of_function(row: list[Token], start: int) -> int:
    """The place behind a function's body, as far as brackets tell."""
    place, depth, has_arguments = start + 1, 0, False
    while place < len(row):
        text = row[place].text if row[place].kind is Kind.SIGN else ""
        depth += (text in {"(", "[", "{"}) - (text in {")", "]", "}"})
        if depth < 0:
            return place
        if not depth:
            if not has_arguments:
                has_arguments = True
            elif (
                text == "}"
                or (text in {";", ","})
                or (
                    place + 1 < len(row)
                    and row[place + 1].line > row[place].line
                    and text not in {"+", "-", "*", "/", "|>"}
                )
            ):
                return place + 1
        place += 1
    return place


def _end_of_brackets(row: list[Token], start: int) -> int:
    """The place behind what closes a bracket; the end of the code where nothing does."""
    depth = 0
    for place in range(start, len(row)):
        if row[place].kind is Kind.SIGN:
            depth += (row[place].text in {"(", "[", "{"}) - (row[place].text in {")", "]", "}"})
        if not depth:
            return place + 1
    return len(row)


def _without_comments(code: str) -> str:
    lines = code.split("\n")
    made = [""] * len(lines)
    for token in tokens(code):
        if token.kind is not Kind.END and token.line <= len(lines):
            made[token.line - 1] += " " * max(0, token.column - 1 - len(made[token.line - 1])) + token.raw
    return "\n".join(made)


def _as_name(name: str) -> str:
    return name if re.fullmatch(r"(?:[^\W\d_]|\.(?!\d))[\w.]*", name) and name not in _RESERVED else f"`{name}`"

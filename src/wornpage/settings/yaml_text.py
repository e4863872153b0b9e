"""YAML to plain data, each value with its place; faults told in the words of who wrote it.

YAML 1.2 core: `NO` is a word, `12:30` and `2026-03-01` are text.
"""

from __future__ import annotations

import re
from typing import Any

from msgspec import Struct, field

from wornpage.source.marks.verbs import ANSWERED, opening
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span

Path = tuple[str | int, ...]

_MARK_VALUE = re.compile(
    r"^(\s*(?:- )?(?:[\w-]+:\s+)?)(" + opening(*ANSWERED, then=" ").replace("(", "(?:", 1) + r".*?)\s*$"
)
_CUT_TEXT = re.compile(r"^(\s*(?:- )?[\w-]+:\s+)([^\s\"'\[{|>#&*][^\"']*?\s#[^\s#].*?)\s*$")
_SECOND_COLON = re.compile(r"^(\s*(?:- )?[\w-]+:\s+)([^\"'\[{].*:\s.*?)\s*$")
_SIGN_FIRST = re.compile(r"^(\s*(?:- )?[\w-]+:\s+)([@`%*&!][^\n]*?)\s*$")
_KEY_WITHOUT_SPACE = re.compile(r"^(\s*(?:- )?)([A-Za-z][\w-]*):([^\s:/].*)$")


_OF_EDITIONS = {("editions", "sets"), ("editions", "combine")}
"""Where given values stand beside `given` itself."""


class Yaml(Struct):
    """A YAML text as read."""

    data: object = None
    places: dict[Path, Span] = field(default_factory=dict)
    """Where each value begins, by the keys that lead to it."""
    keys: dict[Path, Span] = field(default_factory=dict)
    """Where each key stands."""
    problems: list[Problem] = field(default_factory=list)

    def place(self, path: Path) -> Span:
        """The place of the value at `path`, or of the nearest thing around it."""
        while path and path not in self.places:
            path = path[:-1]
        return self.places[path]

    def key_place(self, path: Path) -> Span:
        """The place of the key at `path`, or of the nearest thing around it."""
        return self.keys.get(path) or self.place(path)


def read_yaml(text: str, file: str, first_line: int = 1) -> Yaml:
    """Read `text`, whose first line is line `first_line` of `file`. Never raises for bad YAML."""
    result = Yaml()
    result.places[()] = Span(file, first_line)
    result.problems = _beforehand(text, file, first_line) or _too_deep(text, file, first_line)
    if result.problems or not text.strip():
        return result
    from ruamel.yaml import YAML
    from ruamel.yaml.error import MarkedYAMLError, YAMLError

    try:
        node = YAML(typ="safe", pure=True).compose(text)
        if node is not None:
            result.data = _Reader(result, file, first_line).value(node, ())
    except MarkedYAMLError as error:
        result.problems = [_translate(error, text, file, first_line)]
        return result
    except YAMLError as error:
        span = Span(file, first_line)
        result.problems = [Problem(span, f"this is no YAML: {str(error).splitlines()[0]}.")]
        return result
    except TooMuch as error:
        result.problems.append(error.problem)
    except RecursionError:
        span, what = Span(file, first_line), "the settings are nested deeper than anything that can be set."
        result.problems = [Problem(span, what, "Most likely a bracket is opened and never closed.")]
    return result


class TooMuch(Exception):
    """Settings that grow without bound, or that hold themselves."""

    def __init__(self, problem: Problem) -> None:
        super().__init__(str(problem))
        self.problem = problem


_MOST_VALUES = 200_000
_DEEPEST = 64


class _Reader:
    def __init__(self, result: Yaml, file: str, first_line: int) -> None:
        self.result, self.file, self.first = result, file, first_line
        self.count = 0

    def span(self, node: Any) -> Span:
        return Span(self.file, node.start_mark.line + self.first, node.start_mark.column + 1)

    def value(self, node: Any, path: Path) -> object:
        self.count += 1
        if self.count > _MOST_VALUES or len(path) > _DEEPEST:
            what = (
                "an alias (`*name`) that stands within itself"
                if len(path) > _DEEPEST
                else "aliases that double each other"
            )
            problem = Problem(
                self.span(node), f"the settings never end here: there are {what}.", "Write the values out."
            )
            raise TooMuch(problem)
        self.result.places[path] = self.span(node)
        if node.id == "mapping":
            return self._mapping(node, path)
        if node.id == "sequence":
            return [self.value(item, (*path, index)) for index, item in enumerate(node.value)]
        if node.id == "scalar" and (path[:1] == ("given",) or path[:2] in _OF_EDITIONS):
            return {"raw": node.value, "plain": not node.style}  # its type is the page's to say
        return self._scalar(node)

    def _mapping(self, node: Any, path: Path) -> dict[str, object]:
        found: dict[str, object] = {}
        for key_node, value_node in node.value:
            key = str(key_node.value)
            if key in found:
                first = self.result.keys[(*path, key)].line
                what = f"the key {key!r} stands here twice, first in line {first}."
                self.result.problems.append(Problem(self.span(key_node), what, "Keep one of them."))
                continue
            self.result.keys[(*path, key)] = self.span(key_node)
            found[key] = self.value(value_node, (*path, key))
        return found

    def _scalar(self, node: Any) -> object:
        text = node.value
        match str(node.tag).rpartition(":")[2]:
            case "int" if len(text) > 400:
                what = f"this number has {len(text):,} digits."
                self.result.problems.append(Problem(self.span(node), what, "Put it in quotes if it is a text."))
                return 0
            case "int":
                digits = text.replace("_", "")
                return int(digits, 0) if re.match(r"[-+]?0[xob]", digits) else int(digits)
            case "float":
                return float(text.replace("_", "").replace(".inf", "inf").replace(".nan", "nan"))
            case "bool":
                return text.lower() == "true"
            case "null":
                return None
        return text


def _beforehand(text: str, file: str, first_line: int) -> list[Problem]:
    """Faults that YAML would misread in silence or complain of in words that help nobody."""
    problems = []
    inside_block = -1
    for number, line in enumerate(text.split("\n")):
        indent = len(line) - len(line.lstrip())
        if inside_block >= 0 and (indent > inside_block or not line.strip()):
            continue
        inside_block = indent if re.search(r":\s+[|>][-+]?\d?\s*$", line) else -1
        at = Span(file, first_line + number)
        tab = line.find("\t")
        if tab >= 0 and not line[:tab].strip():
            problems.append(Problem(at.at(at.line, tab + 1), "a tab stands here.", "YAML is indented with spaces."))
        elif match := _MARK_VALUE.match(line) or _CUT_TEXT.match(line):
            problems.append(_wants_quotes(match, at))
        elif match := _KEY_WITHOUT_SPACE.match(line):
            what = f"there is no space after `{match[2]}:`."
            hint = f"Write `{match[2]}: {match[3].strip()}`."
            problems.append(Problem(at.at(at.line, match.end(2) + 2), what, hint))
    return problems


def _too_deep(text: str, file: str, first_line: int) -> list[Problem]:
    """Brackets that go deeper than anything that can be set: the parser would take its time over them."""
    depth = 0
    for number, line in enumerate(text.split("\n")):
        for letter in line:
            depth += (letter in "[{") - (letter in "]}")
            if depth > _DEEPEST:
                what = f"{depth} brackets are open here."
                return [Problem(Span(file, first_line + number), what, "Close them, or put the text in quotes.")]
        depth = max(depth, 0)
    return []


_HALF_QUOTED = re.compile(r"""(\s*(?:- )?[\w-]+:\s+)((["'])[^"']*\3[ \t]*[^\s#,\]}].*?)\s*$""")
"""A value that goes on behind its closing quote."""


def _wants_quotes(match: re.Match[str], at: Span) -> Problem:
    text = match[2]
    quoted = f"'{text}'" if '"' in text and "'" not in text else '"' + text.replace('"', '\\"') + '"'
    reason = "YAML would cut this text at ` #`." if " #" in text else "YAML would misread this text."
    return Problem(at.at(at.line, len(match[1]) + 1), reason, f"Put it in quotes: {match[1].strip()} {quoted}")


def _translate(error: Any, text: str, file: str, first_line: int) -> Problem:
    """A parser's complaint in words for people who do not know YAML's grammar."""
    mark = error.problem_mark or error.context_mark
    number, column = (mark.line, mark.column) if mark else (0, 0)
    lines = text.split("\n")
    number = min(number, len(lines) - 1)
    at = Span(file, first_line + number, column + 1)
    for where in (number, number - 1):
        line = lines[where] if where >= 0 else ""
        if match := _HALF_QUOTED.match(line):
            other = "'" if match[3] == '"' else '"'
            hint = f"Put all of it in the other quotes: {match[1].strip()} {other}{match[2]}{other}"
            return Problem(
                at.at(first_line + where, len(match[1]) + 1), "a text that begins with a quote ends with it.", hint
            )
        if match := _SECOND_COLON.match(line) or _SIGN_FIRST.match(line):
            return _wants_quotes(match, at.at(first_line + where))
    said = str(error.problem or error.context)
    if "could not find expected ':'" in said or "expected <block end>" in said or "mapping values" in said:
        what = "the indentation or a colon is wrong here."
        hint = "Keys of one level begin in the same column, each as `key: value`."
        return Problem(at, what, hint)
    if "end of stream" in said or "end of scalar" in said or "quoted scalar" in str(error.context):
        what = "a quote or a bracket is opened and never closed."
        opened = error.context_mark
        place = at.at(first_line + opened.line, opened.column + 1) if opened else at
        return Problem(place, what, "Close it on the same line.")
    return Problem(at, f"this is no YAML: {said}.")

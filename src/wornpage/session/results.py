"""What chunks show, as data: what travels from a session to composing, and into a trace."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec
from msgspec import Struct

from wornpage.tree.live import Live
from wornpage.tree.table import TableData, Told


class Printed(Struct, frozen=True):
    """Text a chunk wrote to standard output (`output`), to standard error, or as a warning (`notice`)."""

    text: str
    role: str
    lines_cut: int = 0
    """Further lines that were not kept."""
    bytes_cut: int = 0


class ShownText(Struct, frozen=True):
    """The value of a chunk's last expression, as it writes itself."""

    text: str


class ShownFigure(Struct, frozen=True):
    """A picture."""

    format: str
    data: bytes
    width: float
    """Centimetres; 0 where the picture has no real size of its own."""
    height: float
    alt: str
    """What can be told from titles and axes; may be empty."""
    caption: Told | None = None
    label: str = ""
    live: Live | None = None
    """What it is in a browser, where that is more than a picture."""
    look: str = ""
    """`page` where it is drawn in the page's own colours, on no ground."""
    undrawn: str = ""
    """Why its library could not draw it; there is no picture then."""
    remark: str = ""
    """What is said of it where something is wrong, such as too little room; and what may be done."""
    advice: str = ""


class ShownTable(Struct, frozen=True):
    """A data frame."""

    table: TableData


class ShownProse(Struct, frozen=True):
    """Markdown that a chunk wrote."""

    told: Told


class ShownHeading(Struct, frozen=True):
    """A heading that a chunk made."""

    told: Told
    level: int
    label: str = ""


class ShownCell(Struct, frozen=True):
    """A value for a cell of a workbook. Nothing that readers of the page see."""

    place: str
    type: str
    """As in `Answer`; so the value."""
    value: Any
    form: str = ""


class Item(Struct, frozen=True):
    """Something that a file is inserted for."""

    name: str
    """What it is called."""
    hidden: str = ""
    """The name that holds it."""
    file: str = ""
    """The file that is inserted, where that hangs on values."""


class ShownItems(Struct, frozen=True):
    """What an insert stands for. Nothing that readers see."""

    items: tuple[Item, ...]


class ShownHtml(Struct, frozen=True):
    """The HTML that a value offered of itself, and its plain text."""

    html: str
    text: str


class ShownFormula(Struct, frozen=True):
    """What a value offered of itself in LaTeX notation, and its plain text."""

    latex: str
    text: str


Shown = (
    Printed | ShownText | ShownFigure | ShownTable | ShownHtml | ShownFormula | ShownProse | ShownHeading | ShownItems | ShownCell
)  # fmt: skip


class Frame(Struct, frozen=True):
    """One line of a traceback."""

    file: str
    """`chunk:label`, `library:path`, or a path relative to the page's folder."""
    line: int
    name: str
    """The function, or `<module>`."""
    code: str
    column: int = 0


class Raised(Struct, frozen=True):
    """One exception of a chain."""

    kind: str
    message: str
    frames: tuple[Frame, ...]


class Failure(Struct, frozen=True):
    """How a chunk or a mark failed."""

    kind: str
    """The exception's class, or `crash`, `timeout`, `interrupt`."""
    chain: tuple[Raised, ...]
    """From the first cause to what was raised last."""
    name: str = ""
    """The missing name, for a NameError or an ImportError."""
    status: str = ""
    """What `exit()` was called with."""
    hint: str = ""
    """What was probably meant, as far as the language can tell."""
    missing: str = ""
    """Whether `name` is a `name` or a `package` that there is not."""

    @property
    def last(self) -> Raised:
        """What was raised last."""
        return self.chain[-1]


class ChunkResult(Struct, frozen=True):
    """What one run of a chunk came to."""

    shown: tuple[Shown, ...]
    failure: Failure | None
    seconds: float


class Answer(Struct, frozen=True):
    """What a value mark found."""

    type: str
    """`whole`, `number`, `text`, `truth`, `date`, `moment`, `faces` or `missing`."""
    value: Any
    """For `faces` its `text`, its digits as a `number` and its `formula` in LaTeX notation; these may be empty."""
    failure: Failure | None = None


def failure_from(data: dict[str, Any]) -> Failure:
    """The failure that a session described."""
    chain = tuple(
        Raised(part["kind"], part["message"], tuple(Frame(**frame) for frame in part["frames"]))
        for part in data["chain"]
    )
    return Failure(
        data["kind"],
        chain,
        data.get("name") or "",
        data.get("status") or "",
        data.get("hint") or "",
        data.get("missing") or "",
    )


def answer_from(data: dict[str, Any]) -> Answer:
    """The answer that a session gave."""
    if "error" in data:
        return Answer("missing", None, failure_from(data["error"]))
    return Answer(data["type"], data["value"])


def shown_from(item: dict[str, Any], blobs: list[bytes]) -> Shown:
    """The thing shown that a session told of."""
    match item["kind"]:
        case "notice":
            return Printed(item["text"], "notice")
        case "value":
            return ShownText(item["text"])
        case "figure":
            return _figure(item, blobs[0], _live(item.get("live"), blobs[1:]))
        case "prose":
            return ShownProse(_told(item["told"]))
        case "heading":
            return ShownHeading(_told(item["told"]), item["level"], item["label"])
        case "items":
            return ShownItems(tuple(Item(**one) for one in item["items"]))
        case "cell":
            return ShownCell(item["place"], item["type"], item["value"], item.get("form", ""))
        case "formula":
            return ShownFormula(item["latex"], item["text"])
        case "html":
            return ShownHtml(blobs[0].decode("utf-8", "replace"), item["text"])
        case "table":
            return ShownTable(msgspec.convert(item["table"], TableData))
    raise ValueError(f"a session showed something unknown: {item['kind']}")


def _live(told: dict[str, Any] | None, blobs: list[bytes]) -> Live | None:
    """What a session told of a figure in a browser: pictures, or a page and what it needs."""
    if told is None:
        return None
    if told.get("frames"):
        return Live(frames=tuple(blobs), interval=told["interval"])
    return Live(blobs[0], tuple(blobs[1:]), fits=told["fits"])


def _figure(item: dict[str, Any], data: bytes, live: Live | None) -> ShownFigure:
    caption = _told(item["caption"]) if item.get("caption") else None
    label = item.get("label", "")
    return ShownFigure(
        item["format"],
        data,
        item["width"],
        item["height"],
        item["alt"],
        caption,
        label,
        live,
        item.get("look", ""),
        item.get("undrawn", ""),
        item.get("remark", ""),
        item.get("advice", ""),
    )


def _told(data: object) -> Told:
    return msgspec.convert(data, Told)


def _without_defaults(value: object) -> object:
    """A value as plain data, without the fields that are as they always are: traces stay small."""
    if isinstance(value, Struct):
        fields = msgspec.structs.fields(value)
        held = ((field, getattr(value, field.name)) for field in fields)
        return {
            field.name: _without_defaults(inner) for field, inner in held if inner != field.default or field.required
        }
    if isinstance(value, tuple | list):
        return [_without_defaults(item) for item in value]
    return value


# --- to and from plain data -------------------------------------------------------------------


def shown_to_data(shown: tuple[Shown, ...], put: Callable[[bytes], str]) -> list[dict[str, object]]:
    """What was shown as plain data; pictures go through `put`, which gives their address."""
    made: list[dict[str, object]] = []
    for item in shown:
        match item:
            case ShownFigure():
                made.append({"kind": "figure", "format": item.format, "data": put(item.data), "width": item.width,
                             "height": item.height, "alt": item.alt, "caption": msgspec.to_builtins(item.caption),
                             "label": item.label, "remark": item.remark, "advice": item.advice,
                             **_live_to_data(item, put)})  # fmt: skip
            case ShownTable(table=table):
                made.append({"kind": "table", "table": _without_defaults(table)})
            case ShownProse(told=told):
                made.append({"kind": "prose", "told": _without_defaults(told)})
            case ShownHeading(told=told, level=level, label=label):
                made.append({"kind": "heading", "told": _without_defaults(told), "level": level, "label": label})
            case ShownCell():
                made.append(
                    {"kind": "cell", "place": item.place, "type": item.type, "value": item.value, "form": item.form}
                )
            case ShownItems(items=items):
                made.append({"kind": "items", "items": [_without_defaults(one) for one in items]})
            case ShownText(text=text):
                made.append({"kind": "value", "text": text})
            case ShownFormula(latex=latex, text=text):
                made.append({"kind": "formula", "latex": latex, "text": text})
            case ShownHtml(html=html, text=text):
                made.append({"kind": "html", "html": html, "text": text})
            case Printed():
                made.append(
                    {
                        "kind": "printed",
                        "text": item.text,
                        "role": item.role,
                        "lines_cut": item.lines_cut,
                        "bytes_cut": item.bytes_cut,
                    }
                )
    return made


def _live_to_data(item: ShownFigure, put: Callable[[bytes], str]) -> dict[str, object]:
    undrawn: dict[str, object] = {"undrawn": item.undrawn} if item.undrawn else {}
    undrawn |= {"look": item.look} if item.look else {}
    if item.live is None:
        return undrawn
    one = item.live
    told = {"html": put(one.html), "scripts": [put(script) for script in one.scripts], "fits": one.fits}
    moving = {"frames": [put(frame) for frame in one.frames], "interval": one.interval}
    return undrawn | {"live": moving if one.frames else told}


def _live_from_data(told: dict[str, Any] | None, get: Callable[[str], bytes]) -> Live | None:
    if told is None:
        return None
    if "frames" in told:
        return Live(frames=tuple(map(get, told["frames"])), interval=told["interval"])
    return Live(get(told["html"]), tuple(map(get, told["scripts"])), fits=told["fits"])


def shown_from_data(data: list[dict[str, Any]], get: Callable[[str], bytes]) -> tuple[Shown, ...]:
    """The reverse. Raises `KeyError` where a picture is missing."""
    made: list[Shown] = []
    for item in data:
        match item["kind"]:
            case "figure":
                made.append(_figure(item, get(item["data"]), _live_from_data(item.get("live"), get)))
            case "printed":
                made.append(Printed(item["text"], item["role"], item["lines_cut"], item["bytes_cut"]))
            case "html":
                made.append(ShownHtml(item["html"], item["text"]))
            case _:
                made.append(shown_from(item, []))
    return tuple(made)


def failure_to_data(failure: Failure | None) -> dict[str, object] | None:
    """A failure as a session describes it."""
    if failure is None:
        return None
    chain = [
        {"kind": r.kind, "message": r.message,
         "frames": [{"file": f.file, "line": f.line, "name": f.name, "code": f.code, "column": f.column} for f in r.frames]}
        for r in failure.chain
    ]  # fmt: skip
    return {"kind": failure.kind, "name": failure.name, "status": failure.status, "chain": chain}

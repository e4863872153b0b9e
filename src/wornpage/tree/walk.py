"""Going through the tree: every node in order, changed copies of blocks, plain words of running text."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from typing import Any

from msgspec.structs import replace

from wornpage.tree import nodes as n
from wornpage.tree.span import Span

_FIELDS: dict[type, tuple[str, ...]] = {}


def _fields_of(kind: type[n.Node | n.Part]) -> tuple[str, ...]:
    """Names of the fields of a node class that may hold nodes."""
    if kind not in _FIELDS:
        types = {
            name: kind_of for base in kind.__mro__ for name, kind_of in getattr(base, "__annotations__", {}).items()
        }
        _FIELDS[kind] = tuple(name for name in kind.__struct_fields__ if str(types.get(name)) not in _WITHOUT_NODES)
    return _FIELDS[kind]


_WITHOUT_NODES = {
    "str", "int", "float", "bool", "bool | None", "bytes", "Span", "Span | None", "Formula", "Attributes", "TableData | None",
    "tuple[str, ...]", "tuple[int, ...]", "tuple[RawOption, ...]", "tuple[CodeLine, ...]", "tuple[Picture, ...]", "Picture",
    "tuple[CiteItem, ...]", "tuple[IndexEntry, ...]", "SlideLook", "tuple[Spot, ...]", "tuple[Argument, ...]", "Template | None",
}  # fmt: skip
"""Types of fields that are not looked into: most fields of most nodes, in trees of a hundred thousand."""


_LOOKED_INTO = (n.Node, n.Part)
_MAY_HOLD = (tuple, n.Node, n.Part)
"""As tuples, which are asked for much faster than unions."""


def _gather(value: object, found: list[n.Node]) -> None:
    if isinstance(value, n.Node):
        found.append(value)
    elif isinstance(value, tuple):
        for item in value:
            if isinstance(item, n.Node):
                found.append(item)
            else:
                _gather(item, found)
    elif isinstance(value, n.Part):
        for name in _fields_of(type(value)):
            _gather(getattr(value, name), found)


def children(node: n.Node) -> list[n.Node]:
    """The nodes directly below `node`, in order."""
    found: list[n.Node] = []
    for name in _FIELDS.get(type(node)) or _fields_of(type(node)):
        _gather(getattr(node, name), found)
    return found


def walk(tree: Iterable[n.Node]) -> Iterator[n.Node]:
    """Every node of `tree`, parents before children, in page order."""
    if isinstance(tree, tuple) and len(tree) >= _MANY:
        return iter(_all_of(tree))
    return _walked(tree)


_MANY = 200
"""Blocks of a page that is long enough for its nodes to be remembered: many look through the same tree."""
_REMEMBERED: dict[int, tuple[n.Blocks, tuple[n.Node, ...]]] = {}
"""The trees gone through last, by their identity, each with its nodes. Nodes never change."""


def _all_of(tree: n.Blocks) -> tuple[n.Node, ...]:
    known = _REMEMBERED.get(id(tree))
    if known is not None and known[0] is tree:
        return known[1]
    found = tuple(_walked(tree))
    for oldest in list(_REMEMBERED)[:-3]:  # other threads look through trees too
        _REMEMBERED.pop(oldest, None)
    _REMEMBERED[id(tree)] = tree, found
    return found


def _walked(tree: Iterable[n.Node]) -> Iterator[n.Node]:
    stack = list(tree)[::-1]
    while stack:
        node = stack.pop()
        yield node
        below = children(node)
        if below:
            below.reverse()
            stack += below


_WITHOUT_BLOCKS = (n.Paragraph, n.Heading, n.PipeTable, n.TableBlock, n.CodeBlock, n.Figure)


def blocks_of(tree: Iterable[n.Node]) -> Iterator[n.Block]:
    """Every block of `tree`, parents before children, in page order; notes of running text are not looked into."""
    for node in tree:
        if isinstance(node, n.Block):
            yield node
            if not isinstance(node, _WITHOUT_BLOCKS):
                yield from blocks_of(children(node))


_LOOKS = (n.Emphasis, n.Strong, n.Strike)
_RUNNING = (n.Paragraph, n.Heading)
_LETTERS = frozenset({n.Text, n.Code, n.SoftBreak, n.HardBreak, n.RawHtmlInline})
_MOST_KNOWN = 8_000
"""Running texts that are remembered, and kept in memory by it: about as many as a page has."""
_WORDS: dict[int, tuple[object, bool]] = {}
"""Running texts by their identity, each with whether it is words alone. Nodes never change."""


def are_words(inlines: n.Inlines) -> bool:
    """Whether running text is words with their looks and links to elsewhere: nothing in it is asked, numbered or led to a place.

    Most paragraphs are such, and most passes over a page have nothing to do in them.
    """
    known = _WORDS.get(id(inlines))
    if known is not None and known[0] is inlines:
        return known[1]
    if len(_WORDS) > _MOST_KNOWN:
        _WORDS.clear()
    found = all(map(_is_word, inlines))
    _WORDS[id(inlines)] = inlines, found
    return found


def _is_word(node: n.Inline) -> bool:
    if type(node) in _LETTERS:
        return True
    if isinstance(node, n.Link):
        return not node.to and all(map(_is_word, node.children))
    return isinstance(node, _LOOKS) and all(map(_is_word, node.children))


def map_blocks(blocks: n.Blocks, change: Callable[[n.Block], n.Block]) -> n.Blocks:
    """A copy of `blocks` with `change` applied to every block, parents first, in page order; also to those of notes."""

    def visit(node: n.Node) -> n.Node | None:
        if not isinstance(node, n.Block):
            return None
        changed = change(node)
        if isinstance(changed, _RUNNING) and are_words(changed.children):
            return changed
        new = {}
        for name in _fields_of(type(changed)):
            inner = getattr(changed, name)
            if isinstance(inner, tuple):
                made = rewrite(inner, visit)
                if made is not inner:
                    new[name] = made
        return replace(changed, **new) if new else changed

    result: n.Blocks = rewrite(blocks, visit)
    return result


Change = Callable[[n.Node], "n.Node | tuple[n.Node, ...] | None"]


def rewrite(value: object, change: Change, into_words: bool = True) -> Any:
    """A copy of `value` (a node or a tuple of nodes) with `change` applied from the top.

    `change` gives what stands in a node's place, which is not looked into again: a node, or several where a
    sequence allows it; or None to go on below the node. Without `into_words` paragraphs that are words alone (`are_words`)
    stay as they are.
    """
    if isinstance(value, tuple):
        return _rewrite_tuple(value, change, into_words)
    if not isinstance(value, _LOOKED_INTO):
        return value
    changed = change(value) if isinstance(value, n.Node) else None
    if changed is not None:
        return changed
    new = {}
    for name in _FIELDS.get(type(value)) or _fields_of(type(value)):
        inner = getattr(value, name)
        if isinstance(inner, _MAY_HOLD):
            made = rewrite(inner, change, into_words)
            if made is not inner:
                new[name] = made
    return replace(value, **new) if new else value


def _rewrite_tuple(items: tuple[object, ...], change: Change, into_words: bool) -> tuple[object, ...]:
    made: list[object] = []
    same = True
    for item in items:
        if not into_words and type(item) is n.Paragraph and are_words(item.children):
            made.append(item)
            continue
        result = rewrite(item, change, into_words)
        if result is item:
            made.append(item)
            continue
        same = False
        if isinstance(result, tuple) and isinstance(item, n.Node):
            made.extend(result)
        else:
            made.append(result)
    return items if same else tuple(made)


def map_nodes(value: object, change: Callable[[n.Node], n.Node]) -> Any:
    """A copy of `value` (a node, a part or a tuple of them) with `change` applied to every node, children first."""
    if isinstance(value, tuple):
        return tuple(map_nodes(item, change) for item in value)
    if not isinstance(value, _LOOKED_INTO):
        return value
    new = {}
    for name in _fields_of(type(value)):
        inner = getattr(value, name)
        if isinstance(inner, _MAY_HOLD):
            new[name] = map_nodes(inner, change)
    copy = replace(value, **new) if new else value
    return change(copy) if isinstance(copy, n.Node) else copy


def respan(value: object, span: Span) -> Any:
    """A copy of `value` (a node or a tuple of nodes) in which everything stands at `span`."""
    return map_nodes(value, lambda node: replace(node, span=span))


def words_of(inlines: Iterable[n.Node]) -> str:
    """What running text says, without its looks; marks that have no answer yet say nothing."""
    said: list[str] = []
    for node in inlines:
        match node:
            case n.Text(text=text) | n.Code(text=text):
                said.append(text)
            case n.SoftBreak() | n.HardBreak():
                said.append(" ")
            case n.Math(alt=alt):
                said.append(alt)
            case n.RawMath(latex=latex):
                said.append(latex)
            case n.Footnote() | n.RawHtmlInline():
                continue
            case n.Image(alt=alt_inlines):
                said.append(words_of(alt_inlines))
            case _:
                said.append(words_of(children(node)))
    return "".join(said)


def without_links(inlines: n.Inlines) -> n.Inlines:
    """Running text as it may stand again inside a link: without links, notes and places to come back to."""

    def change(node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
        match node:
            case n.Footnote():
                return ()
            case n.Link(children=inner) | n.Citation(children=inner):
                words: n.Inlines = rewrite(inner, change)
                return words
        return None

    made: n.Inlines = rewrite(inlines, change)
    return made

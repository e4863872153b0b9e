"""The language server: the protocol's questions put to `assist` and `check`, their answers put into its words.

Source: the Language Server Protocol, version 3.17. Places are counted from 0; columns in the units the editor asked for.
"""

from __future__ import annotations

import asyncio
import sys
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

from lsprotocol import types as t
from pygls import uris
from pygls.exceptions import JsonRpcInvalidParams
from pygls.lsp.server import LanguageServer
from pygls.workspace import TextDocument

from wornpage.assist import looking
from wornpage.assist.code import offered, said_in_code, signatures_at, warm
from wornpage.assist.document import Document
from wornpage.check import Finding, check_read
from wornpage.check.finding import COMMENT
from wornpage.lsp import lenses
from wornpage.lsp.wire import Incoming, Outgoing
from wornpage.source.comments import comment_problems
from wornpage.sources.collecting import bibtex_file, take_over
from wornpage.tree.problem import PageError, Severity, UsageError
from wornpage.tree.version import VERSION
from wornpage.volume.checking import check_settings, within_volume

_QUIET = 0.25
"""Seconds without a key before a page is checked."""
_KINDS = {
    "label": t.CompletionItemKind.Reference,
    "work": t.CompletionItemKind.Reference,
    "given": t.CompletionItemKind.Variable,
    "option": t.CompletionItemKind.Property,
    "setting": t.CompletionItemKind.Property,
    "value": t.CompletionItemKind.EnumMember,
    "part": t.CompletionItemKind.Field,
    "function": t.CompletionItemKind.Function,
    "class": t.CompletionItemKind.Class,
    "module": t.CompletionItemKind.Module,
    "instance": t.CompletionItemKind.Variable,
    "statement": t.CompletionItemKind.Variable,
    "param": t.CompletionItemKind.Variable,
    "keyword": t.CompletionItemKind.Keyword,
    "property": t.CompletionItemKind.Property,
}

_TAKE = "worn.take-work"
server = LanguageServer("worn", VERSION)
_documents: dict[str, tuple[str, Document]] = {}
_waiting: dict[str, asyncio.TimerHandle] = {}


def _document(uri: str) -> tuple[TextDocument, Document]:
    """A page as the editor has it now."""
    source = server.workspace.get_text_document(uri)
    try:
        text = source.source
    except (OSError, UnicodeDecodeError) as error:
        raise JsonRpcInvalidParams(f"{uri} cannot be read: {error}") from None
    known = _documents.get(uri)
    if known is None or known[0] != text:
        if len(text) > MOST_LETTERS:
            raise JsonRpcInvalidParams(_too_large(text))
        known = _documents[uri] = (text, Document(Path(uris.to_fs_path(uri) or "page.md"), text))
    return source, known[1]


MOST_LETTERS = 600_000
"""Letters of a page up to which help comes within a second or so."""


def _too_large(text: str) -> str:
    return f"this page has {len(text):,} letters, too many for help while it is written (up to {MOST_LETTERS:,})"


def _asked(source: TextDocument, position: t.Position) -> tuple[int, int]:
    """Line and column, counted in characters."""
    place = source.position_codec.position_from_client_units(source.lines, position)
    return place.line, place.character


def _range(source: TextDocument, line: int, first: int, last: int) -> t.Range:
    whole = t.Range(t.Position(line, first), t.Position(line, last))
    return source.position_codec.range_to_client_units(source.lines, whole)


# --- findings ---------------------------------------------------------------------------------


@server.feature(t.TEXT_DOCUMENT_DID_OPEN)
def opened(asked: t.DidOpenTextDocumentParams) -> None:
    """Check a page that was opened, and have the libraries read that its code imports."""
    _publish(asked.text_document.uri)
    with suppress(JsonRpcInvalidParams, PageError):
        warm(_document(asked.text_document.uri)[1])


@server.feature(t.TEXT_DOCUMENT_DID_SAVE)
def saved(asked: t.DidSaveTextDocumentParams) -> None:
    """Check a page that was saved: files beside it may have changed too."""
    _documents.pop(asked.text_document.uri, None)
    _publish(asked.text_document.uri)


@server.feature(t.TEXT_DOCUMENT_DID_CHANGE)
async def changed(asked: t.DidChangeTextDocumentParams) -> None:
    """Check a page once nobody has typed for a moment."""
    uri = asked.text_document.uri
    if waiting := _waiting.pop(uri, None):
        waiting.cancel()
    _waiting[uri] = asyncio.get_running_loop().call_later(_QUIET, _publish, uri)


@server.feature(t.TEXT_DOCUMENT_DID_CLOSE)
def closed(asked: t.DidCloseTextDocumentParams) -> None:
    """Forget a page."""
    _documents.pop(asked.text_document.uri, None)
    server.text_document_publish_diagnostics(t.PublishDiagnosticsParams(asked.text_document.uri, []))


def _publish(uri: str) -> None:
    place = t.Range(t.Position(0, 0), t.Position(0, 1))
    try:
        source, document = _document(uri)
        found = list(_diagnostics(source, document))
    except JsonRpcInvalidParams as error:
        found = [t.Diagnostic(place, str(error), t.DiagnosticSeverity.Information, source="worn")]
    except PageError as error:
        found = [
            t.Diagnostic(place, str(problem), t.DiagnosticSeverity.Error, source="worn") for problem in error.problems
        ]
    server.text_document_publish_diagnostics(t.PublishDiagnosticsParams(uri, found))


def _diagnostics(source: TextDocument, document: Document) -> Iterator[t.Diagnostic]:
    for finding in _findings(document):
        grave = finding.problem.severity is Severity.ERROR
        yield _diagnostic(
            source, document, finding, t.DiagnosticSeverity.Error if grave else t.DiagnosticSeverity.Warning
        )
    if document.schema:
        return
    with suppress(UsageError):  # a side file that holds no comments is told when they are asked for
        for problem in comment_problems(document.path, document.path.name, document.page.text):
            yield _diagnostic(source, document, Finding(COMMENT, problem), t.DiagnosticSeverity.Information)


def _findings(document: Document) -> list[Finding]:
    """What is wrong with a page, or with the list of a volume; what other pages of the volume have is no fault."""
    if document.schema:
        return list(check_settings(document.path, document.text, document.schema))
    return within_volume(document.page, check_read(document.page))


def _diagnostic(
    source: TextDocument, document: Document, finding: Finding, grave: t.DiagnosticSeverity
) -> t.Diagnostic:
    """One finding, over what is left of its line."""
    problem = finding.problem
    elsewhere = problem.span.file != document.path.name
    line = 0 if elsewhere else min(problem.span.line - 1, max(len(document.lines) - 1, 0))
    text = document.lines[line] if line < len(document.lines) else ""
    first = 0 if elsewhere else min(problem.span.column - 1, len(text))
    words = f"{problem.span}: " if elsewhere else ""
    return t.Diagnostic(
        _range(source, line, first, max(len(text), first + 1)),
        f"{words}{problem.what} {problem.hint}".strip(),
        grave,
        code=finding.rule,
        source="worn",
    )


# --- questions --------------------------------------------------------------------------------


@server.feature(t.TEXT_DOCUMENT_COMPLETION, t.CompletionOptions(trigger_characters=[" ", ".", "=", ":", '"', "'", "$"]))
def complete(asked: t.CompletionParams) -> t.CompletionList:
    """What may stand here."""
    source, document = _document(asked.text_document.uri)
    items = [
        t.CompletionItem(
            one.text,
            detail=one.detail or None,
            documentation=one.help or None,
            filter_text=one.found_by or None,
            insert_text=one.text,
            kind=_KINDS[one.kind],
            command=t.Command("Write it into the bibliography", _TAKE, arguments=[asked.text_document.uri, one.taken])
            if one.taken
            else None,
        )
        for one in offered(document, *_asked(source, asked.position))
    ]
    return t.CompletionList(is_incomplete=not items, items=items)


@server.feature(t.TEXT_DOCUMENT_SIGNATURE_HELP, t.SignatureHelpOptions(trigger_characters=["(", ","]))
def signature(asked: t.SignatureHelpParams) -> t.SignatureHelp | None:
    """How what is being called is called."""
    source, document = _document(asked.text_document.uri)
    found = signatures_at(document, *_asked(source, asked.position))
    if not found:
        return None
    made = [
        t.SignatureInformation(text, parameters=[t.ParameterInformation(one) for one in parameters])
        for text, parameters, _ in found
    ]
    return t.SignatureHelp(made, active_signature=0, active_parameter=found[0][2])


@server.feature(t.TEXT_DOCUMENT_CODE_LENS)
def lenses_of(asked: t.CodeLensParams) -> list[t.CodeLens]:
    """What may be done with each chunk."""
    uri = asked.text_document.uri
    return list(lenses.lenses(_document(uri)[1], uri))


@server.command(lenses.RUN)
@server.thread()
def run(uri: str, how: str, label: str) -> None:
    """Run a chunk, or all down to it, as the page was saved last."""
    path = Path(uris.to_fs_path(uri) or "page.md")
    lenses.run_chunk(
        path, how, label,
        lambda kind, text: server.window_show_message(t.ShowMessageParams(kind, text)),
        lambda kind, text: server.window_log_message(t.LogMessageParams(kind, text)),
    )  # fmt: skip


@server.command(_TAKE)
def take_work(uri: str, key: str) -> None:
    """A work of the author's library was chosen: write it into the page's bibliography."""
    _, document = _document(uri)
    entry = document.collection.entries.get(key)
    if entry is None:
        return
    try:
        file = bibtex_file(document.settings.page.bibliography, document.path.parent)
        take_over(entry, file, document.library)
    except UsageError as error:
        server.window_show_message(t.ShowMessageParams(t.MessageType.Error, str(error)))
    _documents.pop(uri, None)
    _publish(uri)


@server.feature(t.TEXT_DOCUMENT_HOVER)
def hover(asked: t.HoverParams) -> t.Hover | None:
    """What stands here."""
    source, document = _document(asked.text_document.uri)
    place = _asked(source, asked.position)
    said = looking.said_of(document, *place) or said_in_code(document, *place)
    return t.Hover(t.MarkupContent(t.MarkupKind.Markdown, said)) if said else None


@server.feature(t.TEXT_DOCUMENT_DEFINITION)
def define(asked: t.DefinitionParams) -> t.Location | None:
    """Where it is defined."""
    source, document = _document(asked.text_document.uri)
    place = looking.defined_at(document, *_asked(source, asked.position))
    if place is None:
        return None
    at = t.Position(place.line, place.column)
    return t.Location(uris.from_fs_path(str(Path(place.file).resolve())) or "", t.Range(at, at))


@server.feature(t.TEXT_DOCUMENT_PREPARE_RENAME)
def may_rename(asked: t.PrepareRenameParams) -> t.Range | None:
    """Whether a label stands here, and where it begins and ends."""
    source, document = _document(asked.text_document.uri)
    line, column = _asked(source, asked.position)
    label = looking.label_at(document, line, column)
    uses = looking.uses_of(document, label) if label else []
    return next((_range(source, *use) for use in uses if use[0] == line and use[1] <= column <= use[2]), None)


@server.feature(t.TEXT_DOCUMENT_RENAME, t.RenameOptions(prepare_provider=True))
def rename(asked: t.RenameParams) -> t.WorkspaceEdit | None:
    """Another name for a label, everywhere in the page."""
    source, document = _document(asked.text_document.uri)
    label = looking.label_at(document, *_asked(source, asked.position))
    if not label:
        return None
    fault = looking.unfit(document, asked.new_name)
    if fault:
        raise JsonRpcInvalidParams(fault)
    edits = [t.TextEdit(_range(source, *use), asked.new_name) for use in looking.uses_of(document, label)]
    return t.WorkspaceEdit({asked.text_document.uri: edits})


@server.feature(t.TEXT_DOCUMENT_REFERENCES)
def references(asked: t.ReferenceParams) -> list[t.Location]:
    """Where a label stands."""
    source, document = _document(asked.text_document.uri)
    label = looking.label_at(document, *_asked(source, asked.position))
    uses = looking.uses_of(document, label) if label else []
    return [t.Location(asked.text_document.uri, _range(source, *use)) for use in uses]


@server.feature(t.TEXT_DOCUMENT_DOCUMENT_SYMBOL)
def symbols(asked: t.DocumentSymbolParams) -> list[t.DocumentSymbol]:
    """The outline."""
    source, document = _document(asked.text_document.uri)
    return [_symbol(source, document, one) for one in looking.outline(document)]


def _symbol(source: TextDocument, document: Document, one: looking.Outline) -> t.DocumentSymbol:
    kind = t.SymbolKind.String if one.kind == "heading" else t.SymbolKind.Function
    head = _range(source, one.line, 0, len(document.lines[one.line]))
    whole = t.Range(head.start, t.Position(one.last, 10_000))
    return t.DocumentSymbol(
        one.name, kind, whole, head, children=[_symbol(source, document, inner) for inner in one.below]
    )


def start() -> Any:
    """Answer until the editor ends."""
    out = Outgoing(sys.stdout.buffer.raw.write if hasattr(sys.stdout.buffer, "raw") else sys.stdout.buffer.write)
    server.start_io(Incoming(sys.stdin.fileno(), out, server.protocol.structure_message), out)  # type: ignore[arg-type]

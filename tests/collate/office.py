"""Edits documents in a real office program: `/usr/bin/python3 office.py IN OUT TRACKED EDITS`, the edits as JSON.

Runs under the system's Python, which has the bridge to that program.
"""

import json
import subprocess
import sys
import tempfile
import time
from pathlib import Path


def connect(home: str):
    """The program, with a home of its own; its process, and what opens documents in it."""
    import uno

    name = f"worn{Path(home).name}"
    accept = f"--accept=pipe,name={name};urp;"
    process = subprocess.Popen(["soffice", f"-env:UserInstallation=file://{home}", "--headless", "--norestore", accept])
    local = uno.getComponentContext()
    resolver = local.ServiceManager.createInstanceWithContext("com.sun.star.bridge.UnoUrlResolver", local)
    for _ in range(300):
        try:
            context = resolver.resolve(f"uno:pipe,name={name};urp;StarOffice.ComponentContext")
            return (
                process,
                context.ServiceManager.createInstanceWithContext("com.sun.star.frame.Desktop", context),
                context,
            )
        except Exception:  # it is not up yet
            time.sleep(0.1)
    raise SystemExit("the office program does not answer")


def value(name, held):
    """A named argument."""
    from com.sun.star.beans import PropertyValue

    made = PropertyValue()
    made.Name, made.Value = name, held
    return made


class Editing:
    """One open document."""

    def __init__(self, document, context) -> None:
        self.document, self.context = document, context
        self.view = document.CurrentController.ViewCursor

    def do(self, command: str, **arguments) -> None:
        """What a menu does."""
        made = self.context.ServiceManager.createInstanceWithContext("com.sun.star.frame.DispatchHelper", self.context)
        values = tuple(value(name, held) for name, held in arguments.items())
        made.executeDispatch(self.document.CurrentController.Frame, f".uno:{command}", "", 0, values)

    def find(self, words: str):
        """Where some words stand."""
        search = self.document.createSearchDescriptor()
        search.SearchString, search.SearchCaseSensitive = words, True
        found = self.document.findFirst(search)
        if found is None:
            raise LookupError(f"not there: {words}")
        return found

    def select(self, words: str, head: int = 0, tail: int = 0) -> None:
        """Select words, but for some letters at their ends."""
        found = self.find(words)
        cursor = found.Text.createTextCursorByRange(found.Start)
        cursor.goRight(head, False)
        cursor.goRight(len(words) - head - tail, True)
        wanted = words[head : len(words) - tail]
        for _ in range(50):  # a note that is not laid out yet cannot be selected
            self.document.CurrentController.select(cursor)
            held = self.document.CurrentController.getSelection()
            if hasattr(held, "getByIndex") and held.getByIndex(0).getString() == wanted:
                return
            time.sleep(0.1)

    def type(self, text: str) -> None:
        """Type letters over what is selected."""
        self.do("InsertText", Text=text)

    def end_of(self, words: str) -> None:
        """Stand at the end of the paragraph that says something."""
        found = self.find(words)
        cursor = found.Text.createTextCursorByRange(found.End)
        cursor.gotoEndOfParagraph(False)
        self.view.gotoRange(cursor, False)

    # --- the edits ----------------------------------------------------------------------------

    def replace(self, old: str, new: str) -> None:
        head = 0
        while head < min(len(old), len(new)) and old[head] == new[head]:
            head += 1
        tail = 0
        while tail < min(len(old), len(new)) - head and old[-1 - tail] == new[-1 - tail]:
            tail += 1
        self.select(old, head, tail)
        added = new[head : len(new) - tail]
        self.type(added) if added else self.do("Delete")

    def insert_after(self, words: str, new: str) -> None:
        self.view.gotoRange(self.find(words).End, False)
        self.type(new)

    def delete(self, words: str) -> None:
        self.select(words)
        self.do("Delete")

    def look(self, words: str, name: str, on: bool = True) -> None:
        self.select(words)
        self.do({"b": "Bold", "i": "Italic", "strike": "Strikeout"}[name])

    def link(self, words: str, address: str) -> None:
        self.find(words).HyperLinkURL = address

    def style(self, words: str, name: str) -> None:
        self.find(words).ParaStyleName = name

    def after(self, words: str, new: str) -> None:
        self.end_of(words)
        self.do("InsertPara")
        self.type(new)

    def take(self, words: str) -> None:
        found = self.find(words)
        cursor = found.Text.createTextCursorByRange(found.Start)
        cursor.gotoStartOfParagraph(False)
        cursor.gotoEndOfParagraph(True)
        cursor.goRight(1, True)
        self.document.CurrentController.select(cursor)
        self.do("Delete")

    def split(self, words: str) -> None:
        self.view.gotoRange(self.find(words).Start, False)
        self.do("SwBackspace")
        self.do("InsertPara")

    def join(self, words: str) -> None:
        self.end_of(words)
        self.do("Delete")
        self.type(" ")

    def move_down(self, words: str) -> None:
        self.view.gotoRange(self.find(words).Start, False)
        self.do("MoveDown")

    def row_after(self, words: str, cells) -> None:
        self.view.gotoRange(self.find(words).Start, False)
        self.do("InsertRowsAfter")
        table, row = self.view.TextTable, int(self.view.Cell.CellName[1:]) + 1
        for column, text in zip("ABCDEFGH", cells, strict=False):
            self.view.gotoRange(table.getCellByName(f"{column}{row}").Start, False)
            self.type(text)

    def take_row(self, words: str) -> None:
        self.view.gotoRange(self.find(words).Start, False)
        self.do("DeleteRows")

    def comment(self, words: str, text: str) -> None:
        self.select(words)
        self.do("InsertAnnotation", Text=text, Author="Ada Lund")


def main() -> None:
    """Each list of edits makes a document of its own, `OUT/NAME.docx`, plain or tracked."""
    source, out, tracked, edits = sys.argv[1], Path(sys.argv[2]), sys.argv[3] == "yes", json.loads(sys.argv[4])
    with tempfile.TemporaryDirectory(prefix="office") as home:
        process, desktop, context = connect(home)
        try:
            for name, operations in edits.items():
                document = desktop.loadComponentFromURL(f"file://{source}", "_blank", 0, (value("Hidden", True),))
                document.RecordChanges = tracked
                editing = Editing(document, context)
                try:
                    for operation, *arguments in operations:
                        getattr(editing, operation)(*arguments)
                except LookupError as error:
                    print(f"{name}: {error}", file=sys.stderr)
                kind = (value("FilterName", "MS Word 2007 XML"),)
                document.storeToURL(f"file://{out / name}.docx", kind)
                document.close(True)
        finally:
            try:
                desktop.terminate()
                process.wait(20)
            except Exception:  # it ends while it answers, or does not
                process.kill()
                process.wait()


if __name__ == "__main__":
    main()

"""`worn proof`: the page in the browser while it is written."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Annotated

import typer

from wornpage.cli.arguments import GivenValues, PageArgument
from wornpage.cli.serving import at_port, show
from wornpage.tree.hosts import HOSTS
from wornpage.tree.problem import UsageError
from wornpage.tree.project import VOLUME_FILE


def proof(
    page: PageArgument,
    kinds: Annotated[str, typer.Option("--as", metavar="html", help="`pdf` shows the sheets beside.")] = "html",
    given: GivenValues = None,
    port: Annotated[int, typer.Option("--port", help="The port to serve on.  [default: any]", show_default=False)] = 0,
    stay: Annotated[bool, typer.Option("--no-open", help="Say the address and open nothing.")] = False,
    editor: Annotated[
        str,
        typer.Option(
            "--editor",
            metavar="COMMAND",
            help="What opens a place of the page that is clicked at, such as `myeditor +{line} {file}`; it is copied otherwise.",
        ),
    ] = "",
) -> None:
    """Show a page in the browser and keep it as it is in its source: every save shows, scroll position kept. A volume is shown whole.

    Only what must run runs. It is served to this machine alone. Ctrl-C ends it.
    """
    from wornpage.cli.given import given_from

    wanted = {kind.strip().lower() for kind in kinds.split(",") if kind.strip()}
    if wanted - {"html", "pdf"}:
        raise UsageError(
            f"a proof cannot be shown as {', '.join(sorted(wanted - {'html', 'pdf'}))}; it is `html`, or `pdf` beside it."
        )
    volume = page / VOLUME_FILE if page.is_dir() else page
    if volume.name == VOLUME_FILE and volume.is_file():
        from wornpage.cli.serve import serve_site
        from wornpage.volume.binding import Wish

        serve_site(volume.parent, port, stay, Wish(volume), "every save of a page shows there; Ctrl-C ends it")
        return
    if not page.is_file():
        raise UsageError(f"there is no page {page}.")
    from wornpage.keeper.asking import start_if_wanted
    from wornpage.proof import serve

    def ready(address: str) -> None:
        print(address, flush=True)
        show(address, "every save of the page or its data shows there; Ctrl-C ends it", stay)

    with at_port(port):
        start_if_wanted(asked=True)
        sheets = "pdf" in wanted or "tex-pdf" in HOSTS.get(page.suffix.lower(), ("", ()))[1]
        serve(page, given_from(given or ()), sheets, port, ready, _helped, _opening(editor) if editor else None)


def _opening(command: str) -> Callable[[Path, int, int], bool]:
    """What starts an editor at a place. Raises `UsageError` for a command that cannot be one."""
    import shlex
    import shutil
    import subprocess

    try:
        words = shlex.split(command)
    except ValueError as error:
        raise UsageError(f"--editor {command!r} is no command: {error}.") from None
    if not words or shutil.which(words[0]) is None:
        raise UsageError(f"--editor {command!r}: there is no program {words[0] if words else ''!r} here.")
    if not any("{file}" in word for word in words):
        words.append("{file}")

    def opens(path: Path, line: int, column: int) -> bool:
        filled = [
            word.replace("{file}", str(path.resolve())).replace("{line}", str(line)).replace("{column}", str(column))
            for word in words
        ]
        try:
            subprocess.Popen(filled, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, start_new_session=True)
        except OSError:
            return False
        return True

    return opens


def _helped(page: Path, text: str, line: int, column: int) -> list[tuple[str, str]]:
    """What may stand at a place, as editors are told; imported when it is first asked."""
    from wornpage.assist.code import offered
    from wornpage.assist.document import Document
    from wornpage.tree.problem import PageError

    try:
        return [(one.text, one.detail) for one in offered(Document(page, text), line, column) if not one.taken]
    except PageError:
        return []

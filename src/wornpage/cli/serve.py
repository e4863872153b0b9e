"""`worn serve`: a site on loopback, to look at."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from wornpage.cli.serving import at_port, show
from wornpage.tree.problem import UsageError

if TYPE_CHECKING:
    from wornpage.volume.binding import Wish


def serve(
    folder: Annotated[Path, typer.Argument(help="The folder with the site.")] = Path("bound"),
    port: Annotated[int, typer.Option("--port", help="The port to serve on.  [default: any]", show_default=False)] = 0,
    stay: Annotated[bool, typer.Option("--no-open", help="Say the address and open nothing.")] = False,
) -> None:
    """Serve a folder with a site to this machine alone. Sites of `worn bind` need no server: this is to see them as one would show them."""
    if not folder.is_dir():
        raise UsageError(f"there is no folder {folder}. `worn bind` writes a site into `bound`.")
    if not (folder / "index.html").is_file():
        raise UsageError(f"{folder} has no index.html, so there is nothing to show first.")
    serve_site(folder, port, stay, None, "Ctrl-C ends it")


def serve_site(folder: Path, port: int, stay: bool, wish: Wish | None, told: str) -> None:
    """Serve, and say where."""
    from wornpage.volume.live import serve as serve_folder

    def ready(address: str) -> None:
        print(address, flush=True)
        show(address, told, stay)

    with at_port(port):
        serve_folder(folder, port, ready, wish)

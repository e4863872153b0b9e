"""What commands share that serve something: how it is said and opened, and what is said of a port that cannot be had."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from wornpage.cli.say import say
from wornpage.tree.problem import UsageError


def show(address: str, told: str, stay: bool) -> None:
    """Say how it goes on, and open an address in the browser unless that is unwanted (`stay`)."""
    say(told)
    if not stay:
        import webbrowser

        webbrowser.open(address)


@contextmanager
def at_port(port: int, host: str = "") -> Iterator[None]:
    """Serving within it raises `UsageError` where the port, or the address to listen at, cannot be had."""
    try:
        yield
    except OSError as error:
        where = f"{host}, port {port}," if host else f"port {port}"
        raise UsageError(f"{where} cannot be used: {error.strerror or error}.") from None

"""What an output is: how a composed page becomes files of one kind.

One folder makes an output; `settings/outputs.py` names it in its table, or a package of its own does by an entry point.
"""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

from msgspec import Struct

from wornpage.lineage.steps import Lineage
from wornpage.output.site import Around
from wornpage.tree.nodes import Composed
from wornpage.tree.problem import Problem

if TYPE_CHECKING:
    from wornpage.settings import PageSettings  # which are made of what outputs say of themselves
    from wornpage.settings.givens import Declared

SettingPath = tuple[str | int, ...]


class State(Struct, frozen=True):
    """The page with other values of its controls."""

    given: dict[str, object]
    """As written."""
    page: Composed


class Controls(Struct, frozen=True):
    """What readers may pick within the page itself."""

    declared: dict[str, Declared]
    given: dict[str, object]
    """What is picked first, which the page is composed for."""
    states: tuple[State, ...]
    """All others."""


class Sayable(Struct, frozen=True):
    """What a stationery's manifest may say for one key of an output."""

    pattern: str = ".*"
    words: str = "a text"
    """The same for people."""


class Result(Struct, frozen=True):
    """A value that the settings ask for under a name."""

    type: str
    """`whole`, `number`, `text`, `truth`, `date`, `moment`, `faces` or `missing`; so what the value is."""
    value: object
    form: str = ""


class Job(Struct, frozen=True):
    """What a page is written for."""

    settings: PageSettings
    folder: Path
    """The page's: what settings name lies below it."""
    name: str
    """What the page is called in messages."""
    stem: str = ""
    """What its files are called, without a suffix."""
    source: str = ""
    """The page as it is written."""
    mark: Any = None
    """For pages in a proof: how parts of the page are told apart."""
    around: Around | None = None
    """For pages of a volume: the others."""
    controls: Controls | None = None
    """For pages that hold what comes of other values too."""
    results: Mapping[str, Result] = {}
    """Values that a workbook names."""
    lineage: Lineage | None = None
    """Where what the page shows comes from, for outputs that tell it."""


class Input(Struct, frozen=True):
    """A file beside the page that an output is made from: checked, remembered, and watched in a proof."""

    setting: SettingPath
    """Where it is named."""
    file: str
    """Relative to the page's folder."""
    is_text: bool = True
    """Whether it must be there and hold UTF-8; otherwise it is a folder or a file of any kind."""


class Written(Struct, frozen=True):
    """What was made of a page."""

    data: bytes
    """The main file."""
    problems: tuple[Problem, ...] = ()
    beside: dict[str, bytes] = {}
    """Further files, by their names in a folder that is called after the main one."""
    read: tuple[Path, ...] = ()
    """Files and folders that it was made from and that no `Input` names; one that was not there, but was looked for, too."""
    fonts: tuple[Path, ...] = ()
    """Fonts of this machine that letters were taken from, since neither the bundled nor the page's own have them."""


class Output(Protocol):
    """One output."""

    @property
    def name(self) -> str:
        """As `--as` and `press:` have it."""

    @property
    def suffix(self) -> str:
        """Of its main file, such as `.html`."""

    # `manifest`, where there is one: keys for it that a stationery's manifest may have, each with its `Sayable`.
    # `shown_as`, where there is one: the output whose `chunks:` under `press:` say how chunks are shown here by default.
    # `has_folder`, where it is true: the main file wants others beside it.
    # `figures_live`, where it is true: figures that can be moved need no still picture.

    @property
    def options(self) -> type[Struct]:
        """What may be set for it under `press:`."""

    @property
    def looks(self) -> tuple[str, ...]:
        """Its files in a stationery."""

    def inputs(self, options: object) -> tuple[Input, ...]:
        """Files beside the page that it is made from, as `options` name them."""

    def write(self, page: Composed, job: Job) -> Written:
        """The files, for `output.writing`; what is wrong with them is told in `Written.problems`."""

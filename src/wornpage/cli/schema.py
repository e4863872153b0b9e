"""`worn schema`: JSON Schemas for editors."""

from __future__ import annotations

import json
from enum import StrEnum
from typing import Annotated

import typer


class Kind(StrEnum):
    """What a schema is of."""

    PAGE = "page"
    CHUNK = "chunk"
    PROJECT = "project"
    VOLUME = "volume"


def schema(
    kind: Annotated[
        Kind, typer.Argument(help="Of a page's front matter, a chunk's options, `worn.yaml` or `volume.yaml`.")
    ] = Kind.PAGE,
) -> None:
    """Print the JSON Schema (draft 2020-12) of what may be set, for editors that complete and check YAML."""
    from wornpage.settings.schema import schema_of

    print(json.dumps(schema_of(kind.value), ensure_ascii=False, indent=2))

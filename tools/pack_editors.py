"""Pack what is added to editors: `python tools/pack_editors.py FOLDER` writes a zip an editor, the same bytes each time."""

from __future__ import annotations

import sys
import zipfile
from pathlib import Path

EDITORS = Path(__file__).parent.parent / "editors"


def pack(editor: str, folder: Path) -> Path:
    """The zip of one editor, in `folder`."""
    folder.mkdir(parents=True, exist_ok=True)
    made = folder / f"worn-{editor}.zip"
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        for path in sorted((EDITORS / editor).rglob("*")):
            if path.is_file():
                name = f"worn/{path.relative_to(EDITORS / editor).as_posix()}"
                archive.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), path.read_bytes(), zipfile.ZIP_DEFLATED)
    return made


if __name__ == "__main__":
    for one in sorted(path.name for path in EDITORS.iterdir() if path.is_dir()):
        print(pack(one, Path(sys.argv[1])))

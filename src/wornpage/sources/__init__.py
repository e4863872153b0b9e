"""Works to cite: read from bibliographies, and set as a citation style wants it.

`entries` reads BibTeX and CSL-JSON; `style` reads Citation Style Language 1.0.2; `engine` renders citations and the list.
"""

from wornpage.sources.entries import Entry, Library, read_library

__all__ = ["Entry", "Library", "read_library"]

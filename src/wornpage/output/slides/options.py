"""What may be set for slides in the browser, and for all slides."""

from __future__ import annotations

from wornpage.output.deck.options import DeckPress

OPTIONS = DeckPress

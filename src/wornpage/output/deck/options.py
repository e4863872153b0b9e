"""What may be set for slides, whichever output they go to."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Struct

from wornpage.tree.kinds import Between, Count, OneFile, Paths, Truth, Whole, Words
from wornpage.tree.shown import ShownOptions


class DeckPress(Struct, frozen=True):
    """Settings of slides in the browser; PDF and presentations take those that mean something there."""

    new_slide_at: Annotated[Whole, Between(1, 6), "A new slide begins at each heading down to this level."] = 2
    shape: Annotated[Literal["16:9", "4:3"], "Width and height of a slide."] = "16:9"
    chunks: Annotated[ShownOptions, "How chunks are shown on slides where nothing is said of one in particular."] = (
        ShownOptions()
    )
    steps: Annotated[Truth, "Lists come item by item, but where `{steps=no}` stands below one."] = False
    fit: Annotated[Literal["tell", "shrink"], "What becomes of a slide that is too tall."] = "tell"
    footer: Annotated[Words, "Words at the foot of each slide."] = ""
    numbers: Annotated[Truth, "The number of each slide at its foot."] = True
    minutes: Annotated[Count, "How long the talk may take, for the speaker's clock; 0 for as long as it will."] = 0
    motion: Annotated[Truth, "Fade from slide to slide, for readers who have not asked for less motion."] = False
    speaker: Annotated[Truth, "Keep the speaker's notes in the file."] = True
    drawn: Annotated[OneFile, "A file with what was drawn on the slides, as their pen saves it."] = ""
    stylesheets: Annotated[Paths, "Style sheets to put after the deck's own."] = ()

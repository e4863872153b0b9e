"""The page of its own that a figure is in a browser: shown in a frame, or drawn from."""

from __future__ import annotations

import re

from wornpage.tree.live import Live

POLICY = (
    "default-src 'none'; script-src 'unsafe-inline' 'unsafe-eval' blob:; style-src 'unsafe-inline'; img-src data: blob:; "
    "font-src data:; media-src data: blob:; worker-src blob:; connect-src data: blob:"
)
"""What is in it reaches neither the page around it nor the network."""
_END = re.compile("</script", re.IGNORECASE)
_ENDED = r"<\\/script"
"""The same for a script, and no end of it."""
_LOOKS = (
    "html,body{margin:0;background:#fff;color:#222;color-scheme:light;overflow:hidden}#drawn{display:block}"
    "body.fits,body.fits #drawn,html:has(body.fits){height:100%}"
)


def head(live: Live, still: bool = False) -> str:
    """What comes before the libraries."""
    drawn = " data-still" if still else ""
    fits = ' class="fits"' if live.fits else ""
    return (
        f'<!DOCTYPE html><html><head><meta charset="utf-8"><meta http-equiv="Content-Security-Policy" content="{POLICY}">'
        f"<style>{_LOOKS}</style></head><body{fits}{drawn}>"
    )


def to_draw(live: Live, width: int, height: int) -> str:
    """All of it, to be drawn as a still picture of so many pixels."""
    texts = (_END.sub(_ENDED, one.decode("utf-8", "replace")) for one in live.scripts)
    scripts = "".join(f"<script>{text}</script>" for text in texts)
    size = f"<style>html,body{{width:{width}px!important;height:{height}px!important}}</style>"
    return f"{head(live, still=True)}{size}{scripts}{live.html.decode('utf-8', 'replace')}</body></html>"

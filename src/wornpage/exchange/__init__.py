"""Pages made from what exists, scripts and notebooks, and scripts made from pages."""

from __future__ import annotations

from wornpage.exchange.notebook import page_of_notebook
from wornpage.exchange.plain_script import page_of_r_script, page_of_script
from wornpage.exchange.script import is_from_page, page_again, script_of

__all__ = ["is_from_page", "page_again", "page_of_notebook", "page_of_r_script", "page_of_script", "script_of"]

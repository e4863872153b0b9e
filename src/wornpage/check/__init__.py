"""Everything that can be known of a page without running it."""

from __future__ import annotations

from wornpage.check.finding import Finding
from wornpage.check.page import check_page, check_read

__all__ = ["Finding", "check_page", "check_read"]

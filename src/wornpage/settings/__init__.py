"""What may be set, on which level, and what is wrong with what was set."""

from wornpage.settings.levels import ChunkSettings, Settings, check_places, settle, settle_insert
from wornpage.settings.models import PageSettings

__all__ = ["ChunkSettings", "PageSettings", "Settings", "check_places", "settle", "settle_insert"]

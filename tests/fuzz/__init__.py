"""Random bytes and words for everything that reads what strangers write: never a traceback, a hang or a gigabyte."""

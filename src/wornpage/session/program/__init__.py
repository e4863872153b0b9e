"""Any other program as a language of chunks, as the settings name it."""

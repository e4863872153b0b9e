"""Running code: one fresh process a language, and capture of all that chunks show."""

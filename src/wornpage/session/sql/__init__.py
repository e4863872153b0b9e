"""SQL as a language of chunks: it runs in the page's Python session, whose frames are its tables."""

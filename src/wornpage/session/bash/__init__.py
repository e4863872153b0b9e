"""The shell as a language of chunks: one process a chunk, its state carried as text from one to the next."""

"""The walk over a page's chunks: what must run, running it, and the record of it."""

"""R as a language of chunks: the near end here, the far end in `far/`."""

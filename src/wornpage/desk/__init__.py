"""Pages for readers who pick given values and get the report: what is offered, what is wished, who waits, what comes of it."""

"""What an editor asks of a page while it is written: what may stand here, what this is, where it is defined."""

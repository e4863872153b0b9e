"""Outputs put where readers find them: whole or not at all, and nothing else there is touched."""

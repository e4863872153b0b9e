"""PDF/UA-1, typeset from the tree."""

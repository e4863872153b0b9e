"""EPUB: a page or a volume as a book that flows on any screen."""

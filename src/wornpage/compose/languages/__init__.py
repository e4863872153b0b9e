"""Languages of print: one file each, named in `compose.language.TABLE`."""

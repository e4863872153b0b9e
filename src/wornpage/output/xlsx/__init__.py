"""Tables and values of a page as a workbook."""

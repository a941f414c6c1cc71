"""The sheet: the page with its notes, and one writer per output format."""

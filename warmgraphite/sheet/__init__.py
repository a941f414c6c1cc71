"""The sheet: the canvas that everything is drawn on, the notes of the page, one writer per output format."""

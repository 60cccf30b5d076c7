"""The window. Qt only: widgets show what the core computed and hand edits to the document."""

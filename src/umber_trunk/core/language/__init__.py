"""The one language a harness is told in: one grammar, a record for each kind of line, who is meant, and what each line
does."""

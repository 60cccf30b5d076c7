"""The same core from a shell."""

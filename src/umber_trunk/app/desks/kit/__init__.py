"""Kit: what to cut and buy."""

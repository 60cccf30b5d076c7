"""What to cut and buy."""

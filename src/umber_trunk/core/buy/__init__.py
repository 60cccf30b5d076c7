"""What to buy and how much to have of it, sample pieces counted in."""

"""Reading a shop's wire list: a proposed reading, the doubts that stay, and the merge into a harness."""

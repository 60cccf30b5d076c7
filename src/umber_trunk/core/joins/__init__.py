"""Splices: where each lies on its segment so that no two stack, its barrel, its shrink, what has to be opened."""

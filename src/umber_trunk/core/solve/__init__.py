"""The harness solved: arrays, currents, temperatures, and what they use of every limit."""

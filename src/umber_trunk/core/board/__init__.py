"""The board: the whole harness at true scale, folded to fit."""

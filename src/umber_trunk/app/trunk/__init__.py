"""The one picture of the trunk, on screen at every stage and on paper."""

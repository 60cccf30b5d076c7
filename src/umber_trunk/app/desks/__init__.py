"""One desk for each stage: the instrument for that stage's decision."""

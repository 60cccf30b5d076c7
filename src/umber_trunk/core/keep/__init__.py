"""What was built and stays so: the sealed log, units and how they compare, what a repair starts from."""

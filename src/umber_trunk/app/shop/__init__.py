"""The shop's window: jobs over all harnesses, one shelf, devices compared, what was learnt."""

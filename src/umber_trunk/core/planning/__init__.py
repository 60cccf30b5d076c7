"""When it is done: one plan for hands, tools and boards over all jobs of a shop."""

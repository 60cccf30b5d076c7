"""Make: every operation of a build in an order that keeps all "before", and the bench that leads through it."""

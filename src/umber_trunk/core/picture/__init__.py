"""Where the trunk picture puts things, without drawing them."""

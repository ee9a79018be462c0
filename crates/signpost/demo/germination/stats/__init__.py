"""Statistics of germination trials."""

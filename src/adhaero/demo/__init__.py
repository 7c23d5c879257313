"""The made-up workshop, and the seed that loads it."""

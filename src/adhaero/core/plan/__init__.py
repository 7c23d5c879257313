"""Before the test: the design of a batch and what it can find out."""

"""Statistics: numbers in, numbers out. What they mean for a batch is said in ``compare``."""

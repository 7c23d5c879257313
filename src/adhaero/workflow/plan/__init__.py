"""Plan: the question, the treatments, the lock and what is changed after it."""

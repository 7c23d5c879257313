"""Answers in words. The only home of sentences about results, and of the rounding of their figures."""

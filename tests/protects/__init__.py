"""One fact, one truth: each test is named by what it protects, and failed before that was mended."""

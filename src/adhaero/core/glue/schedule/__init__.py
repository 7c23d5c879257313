"""When to spread, unclamp, soak and break: runs are composed, placed, improved, checked, or told why they cannot be."""

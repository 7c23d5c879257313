"""Cut: boards, the plan at the saw, measured pieces."""

"""Break: the rig, its pulls and what they came to."""

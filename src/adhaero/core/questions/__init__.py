"""What a study asks: questions and their kinds, the data they are asked of, and how each is decided."""

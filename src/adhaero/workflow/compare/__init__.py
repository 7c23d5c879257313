"""Compare: strengths, verdict, claims."""

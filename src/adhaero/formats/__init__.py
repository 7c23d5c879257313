"""Open formats: bytes in, core types out, and back."""

"""Glue: hands, clamps and hours, and what is done at the bench."""

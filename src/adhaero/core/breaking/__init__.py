"""From a raw force trace to an observation."""

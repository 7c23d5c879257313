"""From observations to a verdict."""

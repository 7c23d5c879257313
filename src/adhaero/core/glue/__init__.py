"""Clamping arithmetic."""

"""Twins: pictures that are the same but for size, format, quality or a small crop."""

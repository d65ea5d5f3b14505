"""The version, alone, so that any module may read it."""

__version__ = "0.1.0"

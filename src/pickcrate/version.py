"""The version and the name that we go by, alone, so that any module may read them."""

__version__ = "0.1.0"

ROBOTS_TOKEN = "pickcrate"  # noqa: S105 (the product token of RFC 9309, not a secret)

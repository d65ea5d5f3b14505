"""What is wrong in a page."""

from msgspec import Struct


class Flaw(Struct, frozen=True):
    """Something wrong in a page: its kind, and where or what it was. Never an exception."""

    kind: str
    detail: str
    host: str = ""
    """whose part of the page could not be had"""
    reason: str = ""
    """why it could not"""

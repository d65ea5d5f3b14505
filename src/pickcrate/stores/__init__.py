"""The door to stores: folders, object stores, and whatever else has files by name."""

HAUL = "haul.json"
"""the order of a haul, by which its store is known; the haul begins when it is there"""

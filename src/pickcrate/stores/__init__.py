"""The door to stores: folders, object stores, and whatever else has files by name."""

"""Addresses in what scripts and data say: literals, JSON, and which of them are versions of one picture."""

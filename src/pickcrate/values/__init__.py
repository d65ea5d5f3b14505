"""The nouns of the flow, complete once built."""

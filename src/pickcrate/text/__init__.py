"""Texts as people and programs write them: numbers, expressions, words that say one thing in many ways."""

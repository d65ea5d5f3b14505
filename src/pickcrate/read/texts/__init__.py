"""Texts that name pictures and are no page, one module a way to write them."""

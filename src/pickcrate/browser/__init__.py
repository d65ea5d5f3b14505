"""The user's own browser: a page as its visitor sees it, and all that was loaded for it."""

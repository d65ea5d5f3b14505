"""Where a list goes on: by links, numbers of pages, forms and counts."""

"""What is said in a part of a page, line by line, and what of it names nothing."""

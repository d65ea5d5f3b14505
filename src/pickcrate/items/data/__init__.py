"""What data in a page, and answers of interfaces, say of things."""

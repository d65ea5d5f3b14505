"""What the user names, opened: what its bytes are, which pages and records it holds, and how far it is trusted."""

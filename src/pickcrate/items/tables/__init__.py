"""What tables list: rows, columns or cells, and what heads and names them."""

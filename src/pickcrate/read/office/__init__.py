"""Documents, slides and workbooks of office programs."""

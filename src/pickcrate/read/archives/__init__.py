"""Pages that were saved in one file with what they need: logs, web archives, mail, packages."""

"""Pictures in style sheets, and what it may cost to find where they are used."""

"""Everything out: sheets, data, and a whole project as one archive."""

"""People, grown from a posed skeleton with clothes."""

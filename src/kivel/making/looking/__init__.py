"""Whatever is looked at: inspections, previews, pages, and what plays in a terminal."""

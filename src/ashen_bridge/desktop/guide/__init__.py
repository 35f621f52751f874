"""Guide pages, one per workspace, in Markdown."""

"""Changes of a project: typed, `Project -> Project`, every part that did not change shared; and edits, which are their values."""

"""A device from questions: the dialog and its sketch."""

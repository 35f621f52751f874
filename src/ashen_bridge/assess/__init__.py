"""Assessment: a prediction with its findings, what the window and the command line show."""

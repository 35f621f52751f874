"""What one window holds: document, results, what is looked at, runs, jobs, questions, commands."""

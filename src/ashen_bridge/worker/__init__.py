"""Computation in a process of its own. Beside everything else: it knows errands as values, and their tools by a protocol."""

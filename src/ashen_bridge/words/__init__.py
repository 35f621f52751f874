"""Values as people read them: numbers, lengths, times, units and verdicts in text. On the model only."""

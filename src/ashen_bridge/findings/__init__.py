"""Judgements on a prediction: small pure rules, each with a code, a severity, numbers, a sentence and a remedy."""

"""Advice drawn from runs and model: how to test, what it would be elsewhere, what did what, whether opening pays."""

"""From a few answers to a complete, computable project in which everything that is not known is marked assumed. No Qt in here."""

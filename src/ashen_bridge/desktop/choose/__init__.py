"""Choose: plans for all joints together, why not the others, builds beside each other, what is at hand."""

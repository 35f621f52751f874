"""Which fault explains what runs measured: hypotheses, what practice says of them beforehand, their evidence, a verdict."""

"""The Baseline workspace: logs brought in, runs described, compared and weighed."""

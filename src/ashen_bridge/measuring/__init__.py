"""What was measured: readings as rows of the estimator, gaps with their budgets, the odd one, the next reading."""

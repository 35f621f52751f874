"""How sure a prediction is: the numbers it stands on, one by one and all together, by first order and by sampling."""

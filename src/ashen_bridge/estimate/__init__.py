"""One estimator for whatever was read: lengths, temperatures, powers.

Numbers x ~ N(0, R) in their standard uncertainties, readings y = y₀ + S·x + e with e ~ N(0, C). Nothing here knows what a number
or a reading is about.
"""

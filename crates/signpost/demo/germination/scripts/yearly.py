"""The rates of a year, one line a species."""

from germination.stats.rates import wilson

print(wilson(44, 50))

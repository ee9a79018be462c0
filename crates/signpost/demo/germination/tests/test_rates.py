import pytest

from germination.stats.rates import wilson


def test_a_rate_has_an_interval() -> None:
    rate = wilson(44, 50)
    assert rate.low < 0.88 < rate.high


def test_no_seeds_no_rate() -> None:
    with pytest.raises(ValueError):
        wilson(0, 0)

"""Draws are uniform over whole items, and the same everywhere."""

from __future__ import annotations

from kivel.core.playback.chance import drawn


def test_no_item_is_likelier_where_the_range_does_not_divide() -> None:
    """Of three quarters of the range each third is drawn as often; were leftovers kept, the first were half of all."""
    items = 3 << 62
    draws = [drawn(items, seed=1, instance=number, purpose="test") for number in range(900)]
    assert all(0 <= draw < items for draw in draws)
    for third in range(3):
        share = sum(third << 62 <= draw < (third + 1) << 62 for draw in draws) / len(draws)
        assert abs(share - 1 / 3) < 0.05


def test_draws_stay_the_same_for_ever() -> None:
    draws = [drawn(100, seed=7, instance=number, purpose="phase of moth") for number in range(5)]
    assert draws == [2, 8, 97, 95, 91]

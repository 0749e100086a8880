"""Money as people read it: with its code, never two currencies in one sum."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal

from babel.numbers import get_currency_precision


def amount(value: Decimal, currency: str) -> str:
    """An amount with all the digits of its currency: 4.50 EUR."""
    return f"{value:,.{get_currency_precision(currency)}f} {currency}"


def amounts(money: Mapping[str, Decimal] | None) -> str:
    """Amounts in each currency; empty for none."""
    return " + ".join(amount(value, currency) for currency, value in sorted((money or {}).items()))

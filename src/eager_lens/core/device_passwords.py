"""Passwords that devices take and people can read off a sheet and type."""

from __future__ import annotations

import secrets
from typing import NamedTuple

LOWER, UPPER, DIGITS, SIGNS = "abcdefghjkmnpqrstuvwxyz", "ABCDEFGHJKLMNPQRSTUVWXYZ", "23456789", "-_.!+="
"""Without those that are taken for one another: l and I and 1, O and 0, o; and with signs that every keyboard has."""


class Rule(NamedTuple):
    """What devices ask of a password: how long it is, and of how many kinds of characters."""

    length: int = 14
    kinds: tuple[str, ...] = (LOWER, UPPER, DIGITS, SIGNS)


RULE = Rule()
SHORTEST, LONGEST = 8, 64


def made(rule: Rule = RULE) -> str:
    """A password by a rule: one of each kind at least, the rest at random, from the system's source of randomness.

    Raises:
        ValueError: when the rule asks for a length that devices do not take.
    """
    if not SHORTEST <= rule.length <= LONGEST:
        raise ValueError(f"{rule.length} characters; devices take {SHORTEST} to {LONGEST}")
    every = "".join(rule.kinds)
    characters = [secrets.choice(kind) for kind in rule.kinds]
    characters += [secrets.choice(every) for _ in range(rule.length - len(characters))]
    secrets.SystemRandom().shuffle(characters)
    return "".join(characters)


def weakness(password: str) -> str:
    """What is wrong with a password that somebody typed; empty when nothing is."""
    if len(password) < SHORTEST:
        return f"{len(password)} characters; at least {SHORTEST} are needed"
    if len(password) > LONGEST:
        return f"{len(password)} characters; devices take {LONGEST} at most"
    if not password.isprintable() or not password.isascii() or " " in password:
        return "use only letters, digits and plain keyboard signs, no spaces: many devices accept nothing else"
    kinds = (str.islower, str.isupper, str.isdigit, lambda one: not one.isalnum())
    if sum(any(kind(one) for one in password) for kind in kinds) < 3:
        return "three kinds of characters are needed: small and capital letters, digits, signs"
    return ""

"""``calc``: one calculator, JSON in and JSON out."""

from __future__ import annotations

import argparse
import json
import sys
from typing import Any, BinaryIO, TextIO

from eager_lens.core.calculator import Calculator
from eager_lens.core.catalogue import CALCULATORS, calculator_named
from eager_lens.core.errors import RefusedInput
from eager_lens.core.validation import parse_json

REFUSED = 2
MOST_BYTES = 16 * 2**20
"""No input of a calculator is larger; an endless one is refused when it comes to this."""


def _text(data: bytes) -> str:
    """The text of an input.

    Raises:
        RefusedInput: when it is too large, or no UTF-8.
    """
    if len(data) > MOST_BYTES:
        raise RefusedInput("", f"the input is larger than {MOST_BYTES // 2**20} MiB")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError as error:
        raise RefusedInput("", f"the input is not UTF-8 text (byte {error.start})") from None


def run(arguments: argparse.Namespace) -> int:
    """Answer what was asked for."""
    if arguments.list:
        for calculator in CALCULATORS.values():
            print(f"{calculator.name:14} {calculator.title}")
        return 0
    if not arguments.name:
        raise RefusedInput("", f"name a calculator; there are {', '.join(CALCULATORS)}")
    calculator = calculator_named(arguments.name)
    if arguments.schema:
        print(json.dumps(calculator.schema(), indent=2, ensure_ascii=False))
        return 0
    if arguments.lines:
        return answer_lines(calculator, sys.stdin.buffer, sys.stdout)
    answer = calculator.answer(parse_json(_text(sys.stdin.buffer.read(MOST_BYTES + 1))))
    print(_dumped(answer, None if arguments.json else 2))
    return 0


def answer_lines(calculator: Calculator[Any, Any], source: BinaryIO, target: TextIO) -> int:
    """Answer each line of ``source``; a refused one gets its error. Returns 2 if any was refused."""
    status = 0
    while line := source.readline(MOST_BYTES + 1):
        try:
            answer = calculator.answer(parse_json(_text(line).rstrip("\r\n")))
        except RefusedInput as error:
            answer = {"error": str(error)}
            status = REFUSED
        print(_dumped(answer, None), file=target)
    return status


def _dumped(answer: dict[str, Any], indent: int | None) -> str:
    return json.dumps(answer, indent=indent, ensure_ascii=False, allow_nan=False)

"""Formulas: plain algebra over tags and numbers with units.

`plate_length / 2 - 3 mm`, `max(a, b)`, `round(pitch / 4 mm)`, `sin(tilt)`, `if(wide > 40 mm, 6, 4)`.
A unit binds to its number before anything else: `12 mm^2` is an area, `1/2 in` is one over two inches.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from difflib import get_close_matches
from functools import lru_cache

import pint
from lark import Lark, Token, Tree
from lark.exceptions import UnexpectedCharacters, UnexpectedEOF, UnexpectedInput

from ..errors import FormulaError
from .units import ROUNDING, UNIT_NAMES, Quantity, dimension_words, kind_of, quantity, reduced, whole

__all__ = ["FUNCTIONS", "Formula", "parse", "rename_tag"]

_UNITS = "|".join(sorted((u for u in UNIT_NAMES if u != "°"), key=len, reverse=True))
_GRAMMAR = rf"""
?start: either
?either: both ("or" both)*
?both: compare ("and" compare)*
?compare: sum (COMPARISON sum)?
?sum: product ((PLUS | MINUS) product)*
?product: signed ((TIMES | OVER) signed)*
?signed: MINUS signed -> negative
       | PLUS signed -> positive
       | power
?power: atom ("^" signed)?
?atom: number | tag | call | "(" either ")"
number: NUMBER (UNIT ("^" EXPONENT)?)?
tag: NAME
call: NAME "(" (either ("," either)*)? ")"
COMPARISON: "<=" | ">=" | "==" | "!=" | "<" | ">"
PLUS: "+"
MINUS: "-" | "−"
TIMES: "*" | "×"
OVER: "/"
EXPONENT: /[1-9]/
UNIT.3: /({_UNITS})(?![a-z0-9_])|°|%/
NUMBER: /([0-9]+\.?[0-9]*|\.[0-9]+)(e[+-]?[0-9]+)?/
NAME: /[a-z_][a-z0-9_]*(\.[a-z_][a-z0-9_]*)*/
%ignore /\s+/
"""
LONGEST, DEEPEST = 2000, 60  # signs, and levels of brackets, signs and powers
_parser = Lark(_GRAMMAR, parser="lalr", propagate_positions=True)


@dataclass(frozen=True, slots=True)
class Formula:
    """A formula that has been read. `tags` are the names it uses."""

    text: str
    tree: Tree[Token]
    tags: frozenset[str]

    @property
    def plain(self) -> str | None:
        """The unit of a number that stands alone, "" without one; None for anything else."""
        unit = self.tree.children[1:]
        return None if self.tree.data != "number" or len(unit) > 1 else str(unit[0]) if unit else ""

    def value(self, scope: Mapping[str, Quantity]) -> Quantity:
        """Return the quantity, looking tags up in scope; raises FormulaError in words."""
        result = _value(self.tree, scope)
        if not math.isfinite(result.magnitude):
            raise FormulaError("This has no finite value.")
        return result


@lru_cache(maxsize=4096)
def parse(text: str) -> Formula:
    """Read a formula; raises FormulaError with the character at which it stops making sense."""
    if not text.strip():
        raise FormulaError("A number or a formula is wanted here, for example 12 mm.", at=0)
    if len(text) > LONGEST:
        raise FormulaError(
            f"A formula has at most {LONGEST} signs; this has {len(text)}. Give parts of it tags of their "
            "own.",
            at=LONGEST,
        )
    try:
        tree = _parser.parse(text)
    except UnexpectedInput as error:
        raise FormulaError(*_explain(text, error)) from error
    if isinstance(tree, Token):  # pragma: no cover - every rule above makes a tree
        tree = Tree("tag", [tree])
    _check_depth(tree)
    return Formula(text, tree, frozenset(str(t.children[0]) for t in tree.find_data("tag")) - {"pi"})


def _check_depth(tree: Tree[Token]) -> None:
    """Raise FormulaError for what is nested too deep to be worked out, or to be read by anybody."""
    level: list[Tree[Token]] = [tree]
    for _ in range(DEEPEST):
        level = [c for t in level for c in t.children if isinstance(c, Tree)]
        if not level:
            return
    at = getattr(level[0].meta, "start_pos", 0)
    raise FormulaError(f"This is nested more than {DEEPEST} deep. Give parts of it tags of their own.", at=at)


def _explain(text: str, error: UnexpectedInput) -> tuple[str]:
    if isinstance(error, UnexpectedEOF) or getattr(getattr(error, "token", None), "type", "") == "$END":
        problem = FormulaError(
            "The formula ends too early: something is missing after the last sign.", at=len(text)
        )
    else:
        at = error.pos_in_stream or 0
        seen = text[at : at + 12].split()[0] if text[at:].split() else text[at:]
        hint = (
            "a tag is lower-case words with underscores"
            if isinstance(error, UnexpectedCharacters)
            else ("an operator such as + - * / is missing before it, or it does not belong here")
        )
        problem = FormulaError(f"“{seen}” at character {at + 1} can not be read; {hint}.", at=at)
    raise problem from error


def rename_tag(text: str, old: str, new: str) -> str:
    """Return the formula with one tag's name replaced wherever it is used."""
    places = [t.children[0] for t in parse(text).tree.find_data("tag")]
    for token in sorted((p for p in places if p == old), key=lambda p: -p.start_pos):  # type: ignore[union-attr, operator]
        text = text[: token.start_pos] + new + text[token.end_pos :]  # type: ignore[union-attr]
    return text


def _value(node: Tree[Token] | Token, scope: Mapping[str, Quantity]) -> Quantity:
    assert isinstance(node, Tree)
    at = getattr(node.meta, "start_pos", 0)
    try:
        return reduced(_RULES[node.data](node.children, scope))
    except pint.DimensionalityError as error:
        left, right = (dimension_words(str(d) or "dimensionless") for d in (error.dim1, error.dim2))
        raise FormulaError(
            f"This mixes {left} with {right}; give both the same kind of unit.", at=at
        ) from error
    except ZeroDivisionError as error:
        raise FormulaError("This divides by zero.", at=at) from error
    except (ValueError, OverflowError) as error:
        raise FormulaError(
            "This has no value: the number is outside what the function or power takes.", at=at
        ) from error
    except FormulaError as error:
        error.at = at if error.at is None else error.at
        raise


def _number(children: list, scope: Mapping[str, Quantity]) -> Quantity:
    size, *unit = children
    if unit and unit[0] == "%":
        return quantity(float(size) / 100)
    value = quantity(float(size))
    return value * quantity(1, str(unit[0])) ** (int(unit[1]) if len(unit) > 1 else 1) if unit else value


def _tag(children: list, scope: Mapping[str, Quantity]) -> Quantity:
    name = str(children[0])
    if name == "pi":
        return quantity(math.pi)
    if name not in scope:
        if "." in name:
            raise FormulaError(
                f"“{name}” has no value here. A step's volume or area is known once the step is built; "
                "its name is the step's, in lower case with underscores."
            )
        unit = f" For the unit write 1 {name}." if name in UNIT_NAMES else ""
        close = (
            get_close_matches(name, [*scope, *FUNCTIONS] if len(name) > 2 else [], 3)
            or [t for t in scope if t.startswith(name[:3])][:3]
        )
        hint = f" Near to it: {', '.join(close)}." if close else " The ledger lists the tags there are."
        raise FormulaError(f"There is no tag “{name}”.{unit or hint}")
    return scope[name]


def _chain(children: list, scope: Mapping[str, Quantity]) -> Quantity:
    result = _value(children[0], scope)
    for sign, operand in zip(children[1::2], children[2::2], strict=True):
        other = _value(operand, scope)
        if sign == "+":
            result = result + other
        elif sign in "-−":
            result = result - other
        elif sign in "*×":
            result = result * other
        else:
            result = result / other
    return result


def _power(children: list, scope: Mapping[str, Quantity]) -> Quantity:
    base, exponent = (_value(c, scope) for c in children)
    result = base ** _bare(exponent, "An exponent")
    if isinstance(result.magnitude, complex):
        raise ValueError
    return result


def _compare(children: list, scope: Mapping[str, Quantity]) -> Quantity:
    left, sign, right = _value(children[0], scope), children[1], _value(children[2], scope)
    gap = (left - right).magnitude
    if abs(gap) <= ROUNDING * abs((abs(left) + abs(right)).to((left - right).units).magnitude):
        gap = 0.0  # 1 in == 25.4 mm, whatever the last bit says
    holds = {"<": gap < 0, ">": gap > 0, "<=": gap <= 0, ">=": gap >= 0, "==": gap == 0, "!=": gap != 0}[
        str(sign)
    ]
    return quantity(float(holds))


def _bare(value: Quantity, what: str) -> float:
    if not value.dimensionless:
        raise FormulaError(
            f"{what} is a plain number, and this is {kind_of(value)}; divide by a unit, for example 1 mm."
        )
    return float(value.magnitude)


def _angle(value: Quantity) -> float:
    if not value.check("[angle]"):
        raise FormulaError(f"An angle is wanted here, for example 22 deg, and this is {kind_of(value)}.")
    return float(value.to("radian").magnitude)


def _of_number(function: Callable[[float], float], name: str, unit: str = "") -> Callable[..., Quantity]:
    return lambda x: quantity(function(_bare(x, f"What {name} takes")), unit)


_FUNCTIONS: dict[
    str, tuple[int, Callable[..., Quantity]]
] = {  # name -> (arguments, or -1 for any number; function)
    "sin": (1, lambda x: quantity(math.sin(_angle(x)))),
    "cos": (1, lambda x: quantity(math.cos(_angle(x)))),
    "tan": (1, lambda x: quantity(math.tan(_angle(x)))),
    "asin": (1, _of_number(math.asin, "asin", "rad")),
    "acos": (1, _of_number(math.acos, "acos", "rad")),
    "atan": (1, _of_number(math.atan, "atan", "rad")),
    "atan2": (2, lambda y, x: quantity(math.atan2((y + 0 * x).magnitude, x.to(y.units).magnitude), "rad")),
    "sqrt": (1, lambda x: _power_of(x, 0.5)),
    "abs": (1, abs),
    "round": (1, _of_number(lambda x: math.floor(whole(x + 0.5)), "round")),
    "floor": (1, _of_number(lambda x: math.floor(whole(x)), "floor")),
    "ceil": (1, _of_number(lambda x: math.ceil(whole(x)), "ceil")),
    "min": (-1, lambda *xs: min(x + 0 * xs[0] for x in xs)),
    "max": (-1, lambda *xs: max(x + 0 * xs[0] for x in xs)),
    "mod": (2, lambda x, y: _remainder(x, y)),
    "not": (1, lambda x: quantity(float(_bare(x, "A condition") == 0))),
}


def _remainder(x: Quantity, y: Quantity) -> Quantity:
    """Return x - y floor(x / y), with nothing left over where y goes into x but for rounding."""
    return x - y * math.floor(whole(_bare(reduced(x / y), "The ratio in mod")))


def _power_of(value: Quantity, exponent: float) -> Quantity:
    if value.magnitude < 0:
        raise ValueError
    return value**exponent


def _call(children: list, scope: Mapping[str, Quantity]) -> Quantity:
    name, *arguments = children
    if name == "if":
        if len(arguments) != 3:
            raise FormulaError(
                "if takes three things: a condition, the value when it holds, and the value when not."
            )
        holds = _bare(_value(arguments[0], scope), "A condition")
        return _value(arguments[1 if holds else 2], scope)
    if name not in _FUNCTIONS:
        raise FormulaError(f"There is no function “{name}”. There are: if, {', '.join(sorted(_FUNCTIONS))}.")
    wanted, function = _FUNCTIONS[str(name)]
    if len(arguments) != wanted and not (wanted == -1 and arguments):
        count = "at least one value" if wanted == -1 else "one value" if wanted == 1 else f"{wanted} values"
        raise FormulaError(f"{name} takes {count}, and {len(arguments)} are given.")
    return function(*(_value(a, scope) for a in arguments))


# Every function in a few words, for whoever types one.
FUNCTIONS = {
    "if": "if(condition, then, else)",
    "sin": "sine of an angle",
    "cos": "cosine of an angle",
    "tan": "tangent of an angle",
    "asin": "angle with this sine",
    "acos": "angle with this cosine",
    "atan": "angle with this tangent",
    "atan2": "atan2(y, x): angle of a direction",
    "sqrt": "square root",
    "abs": "size without its sign",
    "round": "nearest whole number",
    "floor": "whole number below",
    "ceil": "whole number above",
    "min": "the least of some values",
    "max": "the greatest of some values",
    "mod": "mod(x, y): what is left of x by y",
    "not": "1 where a condition does not hold",
}


_RULES: dict[str, Callable[[list, Mapping[str, Quantity]], Quantity]] = {
    "number": _number,
    "tag": _tag,
    "call": _call,
    "sum": _chain,
    "product": _chain,
    "power": _power,
    "compare": _compare,
    "negative": lambda c, s: -_value(c[-1], s),
    "positive": lambda c, s: _value(c[-1], s),
    "either": lambda c, s: quantity(float(any(_bare(_value(x, s), "A condition") for x in c))),
    "both": lambda c, s: quantity(float(all(_bare(_value(x, s), "A condition") for x in c))),
}

"""Numbers with units: formulas, tags and the ledger."""

from .formula import FUNCTIONS, Formula, parse, rename_tag
from .ledger import Definition, Outcome, evaluate_ledger, plain_number, plain_value, usable_tag
from .units import UNIT_NAMES, Kind, Quantity, Units, format_quantity, in_kind

__all__ = [
    "FUNCTIONS",
    "UNIT_NAMES",
    "Definition",
    "Formula",
    "Kind",
    "Outcome",
    "Quantity",
    "Units",
    "evaluate_ledger",
    "format_quantity",
    "in_kind",
    "parse",
    "plain_number",
    "plain_value",
    "rename_tag",
    "usable_tag",
]

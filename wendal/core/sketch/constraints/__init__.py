"""The constraint kinds. A new kind is one new file here; this package finds it by itself."""

from importlib import import_module
from pkgutil import iter_modules

from .base import Compiled, Row, Rule, all_rules, kinds_of, register, rule_for

for _module in iter_modules(__path__):
    import_module(f"{__name__}.{_module.name}")

__all__ = ["Compiled", "Row", "Rule", "all_rules", "kinds_of", "register", "rule_for"]

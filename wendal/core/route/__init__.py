"""The route: the part document, its commands, and its evaluation."""

from .checks import figures_of
from .commands import Command, apply
from .depends import references, standing_on, stands_on
from .document import (
    AnyStep,
    Entry,
    Kept,
    Part,
    Remark,
    part_schema,
    read_part,
    read_step,
    todays,
    write_part,
)
from .evaluate import ONWARD, Evaluation, evaluate
from .memory import Memory
from .reports import ReferenceState, StepReport
from .saying import say_command

__all__ = [
    "ONWARD",
    "AnyStep",
    "Command",
    "Entry",
    "Evaluation",
    "Kept",
    "Memory",
    "Part",
    "ReferenceState",
    "Remark",
    "StepReport",
    "apply",
    "evaluate",
    "figures_of",
    "part_schema",
    "read_part",
    "read_step",
    "references",
    "say_command",
    "standing_on",
    "stands_on",
    "todays",
    "write_part",
]

"""A sketch explained: its things and freedoms in words, conflicts with their ways out, what would constrain
the rest."""

from .counting import Counted, count_freedoms
from .diagnosis import check_new, ways_out
from .freedom import Freedom, Freedoms, find_freedoms
from .grouping import grouped
from .motion import motion_frames
from .rest import Proposal, propose
from .words import bare_name, name_of, say_bound, say_constraint

__all__ = [
    "Counted",
    "Freedom",
    "Freedoms",
    "Proposal",
    "bare_name",
    "check_new",
    "count_freedoms",
    "find_freedoms",
    "grouped",
    "motion_frames",
    "name_of",
    "propose",
    "say_bound",
    "say_constraint",
    "ways_out",
]

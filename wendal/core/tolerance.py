"""All tolerances, on one page, each with its reason.

A tolerance is named by what it lets pass. Lengths are mm, angles rad, sizes of sketches are shares of the
sketch's size (about its largest extent). Two things that are compared with the same name are compared for the
same reason; a value that happens to be equal under another name may change alone.
"""

from __future__ import annotations

from typing import Final

# ---- Lengths, mm ----

# Places nearer than this are one place. It is the kernel's own confusion (`Precision::Confusion`): edges and
# corners that it makes are no better than this, so nothing finer can be told apart on a body.
ONE_PLACE: Final = 1e-7

# How near what is constructed comes to where it should be, after a few steps of 1e-7 each: ends that meet,
# a path that begins in its profile's plane, the sections of a smooth solid.
MEETS: Final = 1e-6

# How near lengths along curves come to the exact ones; the kernel halves what it integrates until it is
# there.
ALONG: Final = 1e-9

# What figures of a whole face or body may be off by, such as boxes and the parameters of surfaces. It only
# decides who is asked further, so it is generous.
FIGURES: Final = 1e-5

# How far the kernel's offset faces and walls may miss the distance that was asked for.
OFFSET: Final = 1e-4

# The tolerance with which the kernel's offset and sewing work. Smaller ones leave gaps at free-form faces.
SEWN: Final = 1e-3

# How badly a corner of a result may be known. The kernel calls a shape valid whose corners are only near
# their edges, to within a tolerance that it makes as large as it must. Beyond this, files and triangles of it
# may be of another shape, and are asked whether they close.
LOOSE: Final = 0.25

# How far beside an edge or cut it is asked on which side material or a face lies: well beyond the tolerance
# of the edge, well within any wall.
BESIDE: Final = 1e-3

# The same beside an edge of a face that is only extended, whose neighbourhood is exact.
CLOSE_BESIDE: Final = 1e-4

# A normal that is asked of the kernel wants a step in the surface's parameters.
NORMAL_STEP: Final = 1e-6

# ---- Directions: sines of angles, and shares of 1 ----

# Exact figures: directions from datums, base axes and typed angles are parallel when their sine is below
# this.
PARALLEL: Final = 1e-9

# Directions of edges and faces as the kernel gives them.
STRAIGHT: Final = 1e-6

# A direction that is nearer than this to a plane pushes nothing out of it that could be built.
ASLANT: Final = 1e-3

# ---- Angles, rad ----

# A turn this near to a full one is full: typed angles come through degrees and formulas.
FULL_TURN: Final = 1e-9

# The same for parameters of closed curves, which are computed and not typed.
FULL_ROUND: Final = 1e-12

# The same for arcs that the kernel measured by their length.
FULL_EDGE: Final = 1e-6

# A path whose direction changes by more at a corner has a kink there; a sketch's chain comes out smooth to
# this.
KINK: Final = 1e-4

# Chains that were drawn smooth are offset as smooth.
SMOOTH_CHAIN: Final = 1e-6

# Walls thinner than this (mm) the kernel takes for none: it merges their corners.
THINNEST: Final = 0.005

# ---- Shares of a volume or an area ----

# A smaller change of a volume is none: analytic faces are weighed to about 1e-12.
NO_VOLUME: Final = 1e-9

# What a merge or joint may do to the volume: two integrals over different faces.
SAME_VOLUME: Final = 1e-7

# What merging may do to volume and area where free-form faces, weighed in pieces, are among them.
SAME_MERGED: Final = 1e-6

# Volumes of rounded solids may differ by so much though they are the same: the kernel's integrals over
# blends.
ROUNDED_VOLUME: Final = 1e-5

# The same over free-form faces that were made by an offset.
FREE_FORM_VOLUME: Final = 1e-3

# So much of a face's area may be lost to the kernel's tolerance along its edges.
COVERED: Final = 1e-6

# ---- Parameters ----

# An edge nearer than this to one value of a surface's parameter all along runs along it.
ALONG_PARAMETER: Final = 1e-6

# A share of a curve, typed or computed, may lie this far beyond its ends.
SHARE: Final = 1e-9

# How near a root of a function of one parameter is found: a few last places of a number about 1 to 10.
ROOT: Final = 1e-14

# Knots of a spline nearer than this are one knot.
KNOT: Final = 1e-12

# A spline has no room for another point nearer than this to one of its own.
SPLINE_ROOM: Final = 1e-4

# ---- Numbers ----

# What adding, scaling and turning units may leave behind, as a share of the value.
ROUNDING: Final = 1e-12

# A count is whole, a value is the one that is allowed, when it is this near.
SAME_NUMBER: Final = 1e-9

# A vector whose length is below this has no direction.
NO_LENGTH: Final = 1e-12

# Divisors below this stand for zero; it is far below any result that matters and far above the smallest
# float.
NO_DIVISOR: Final = 1e-300

# ---- Sketches: shares of the sketch's size ----

# The residual at which a sketch counts as solved; an accuracy that further steps hardly better.
SOLVED: Final = 1e-11

# The residual at which a place that was left for a finite move counts as brought back.
BROUGHT_BACK: Final = 1e-12

# A row that is this small after a finite move still holds there.
STILL_HOLDS: Final = 1e-10

# What a move in between, while dragging, must meet; it is solved further when the pointer rests.
WHILE_MOVING: Final = 1e-6

# Constraints that are off by more are broken; lengths below this are gone.
BROKEN: Final = 1e-6

# A measure that changes less over a finite move does not change.
UNCHANGED: Final = 1e-6

# Places of sketch geometry that are told in words as one: coarser than solving, finer than drawing.
TOLD_AS_ONE: Final = 1e-5

# ---- Sketches: linear algebra ----

# Singular values below this share of the largest may be zero: at a double solution a place is met only to
# the root of the accuracy. Every doubt is then decided by a finite move.
MAY_BE_SINGULAR: Final = 1e-5

# A row is dependent when what is left of it, in a generic place, is below this.
DEPENDENT: Final = 1e-7

# Motions: an unknown that is free moves by at least this share of a unit of motion.
MOVES: Final = 1e-6

# Smaller parts of a motion are noise of its computation.
MOTION_NOISE: Final = 1e-9

# Comparing bodies. Figures of faces that are the same but for rounding, of their own size; places that are
# the same after a motion, mm; and below this the kernel takes two bodies for one, so no volume is told.
SAME_FIGURE: Final = 1e-9
SAME_PIECE: Final = 1e-6
TOLD_APART: Final = 1e-5

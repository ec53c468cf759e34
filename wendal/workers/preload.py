"""What the fork server loads before any worker exists, and the web service never does: the kernel takes
1.5 s and 240 MB."""

from __future__ import annotations

from wendal.core import kernel, receiving  # noqa: F401
from wendal.core.route.keeping import made_by

from . import geometry, pen  # noqa: F401
from . import receiving as reading  # noqa: F401

kernel.fuse  # noqa: B018 - loads the kernel
made_by()  # while what is on the disk is what has been loaded

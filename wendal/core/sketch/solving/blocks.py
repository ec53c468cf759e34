"""The order in which a system's unknowns determine each other (Dulmage-Mendelsohn, from the structure alone).

Rows are matched to unknowns. What is left over of the unknowns, with all that hangs on it, is the loose part;
what is left over of the rows, with what it binds, the over-determined part; between them stand square blocks,
the strongly connected ones of the matching. A row in one block that reads an unknown of another makes the
first depend on the second. So only the blocks that a change touches, and those downstream of them, need to be
solved.

Source: A. Pothen, C.-J. Fan, Computing the block triangular form of a sparse matrix, ACM TOMS 16 (1990).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array, csr_array
from scipy.sparse.csgraph import connected_components, maximum_bipartite_matching

__all__ = ["Blocks"]

Ints = NDArray[np.int64]
Mask = NDArray[np.bool_]


class Blocks:
    """The blocks of a system of m rows and n unknowns.

    row, column : (m,), (n,) int, the block each belongs to. square : (blocks,) bool. loose, tied : (n,) bool,
    the unknowns of the under-determined and of the over-determined part.
    """

    def __init__(self, pairs: Ints, m: int, n: int) -> None:
        """Find the blocks; pairs : (2, k) int, the rows and the unknowns they read."""
        self.m, self.n = m, n
        rows, columns = pairs
        graph = csr_array((np.ones(len(rows), dtype=np.int8), (rows, columns)), shape=(m, n))
        match = maximum_bipartite_matching(graph, perm_type="column") if m and n else np.full(m, -1)
        self._matched = match >= 0
        of_column = np.full(n, -1)
        of_column[match[match >= 0]] = np.flatnonzero(match >= 0)
        loose_rows, self.loose = _reached(graph, of_column, from_rows=False)
        tied_rows, self.tied = _reached(graph, match, from_rows=True)
        self._label(rows, columns, match, of_column, (loose_rows, tied_rows), (self.loose, self.tied))
        self._order(rows, columns)

    def _label(
        self,
        rows: Ints,
        columns: Ints,
        match: Ints,
        of_column: Ints,
        part_rows: tuple[Mask, Mask],
        part_columns: tuple[Mask, Mask],
    ) -> None:
        part_of_row = np.where(part_rows[0], 1, np.where(part_rows[1], 2, 0))
        part_of_column = np.where(part_columns[0], 1, np.where(part_columns[1], 2, 0))
        self.row, self.column = np.full(self.m, -1), np.full(self.n, -1)
        inside = part_of_row[rows] == part_of_column[columns]
        count = 0
        # Loose and over-determined parts fall into what is connected; the square part into what is strongly
        # connected.
        for part in (0, 1, 2):
            own = inside & (part_of_row[rows] == part)
            r, c = rows[own], columns[own]
            if part:
                size = self.m + self.n
                graph = coo_array((np.ones(len(r)), (r, c + self.m)), shape=(size, size))
                _, label = connected_components(graph, directed=False)
                of_rows, of_columns = label[: self.m], label[self.m :]
            else:
                graph = (
                    coo_array((np.ones(len(r)), (r, of_column[c])), shape=(self.m, self.m))
                    if len(r)
                    else coo_array((self.m, self.m))
                )
                _, of_rows = connected_components(graph, directed=True, connection="strong")
                of_columns = (
                    np.where(of_column >= 0, of_rows[of_column], -1) if self.m else np.full(self.n, -1)
                )
            mine_r, mine_c = part_of_row == part, part_of_column == part
            known, fresh = np.unique(
                np.concatenate([of_rows[mine_r], of_columns[mine_c]]), return_inverse=True
            )
            self.row[mine_r] = fresh[: mine_r.sum()] + count
            self.column[mine_c] = fresh[mine_r.sum() :] + count
            if part == 0:
                self._squares = len(known)
            count += len(known)
        self.count = count

    def _order(self, rows: Ints, columns: Ints) -> None:
        a, b = self.column[columns], self.row[rows]
        cross = a != b
        self._downstream: list[list[int]] = [[] for _ in range(self.count)]
        for before, after in set(zip(a[cross].tolist(), b[cross].tolist(), strict=True)):
            self._downstream[before].append(after)

    def rank_of(self, rows: Ints) -> int:
        """Return how many of some whole part's rows can be independent, by the structure."""
        return int(self._matched[rows].sum())

    def is_square(self, block: int) -> bool:
        """Tell whether a block has as many rows as unknowns, structurally."""
        return block < self._squares

    def affected(self, bad: Mask) -> tuple[Mask, Mask]:
        """Return the rows and unknowns of the blocks that hold bad rows, and of all that depend on them."""
        hit = np.zeros(self.count, dtype=bool)
        reached = set(self.row[bad].tolist())
        front = list(reached)
        while front:
            fresh = [k for k in self._downstream[front.pop()] if k not in reached]
            reached.update(fresh)
            front += fresh
        hit[list(reached)] = True
        return hit[self.row], hit[self.column] if self.n else np.zeros(0, dtype=bool)


def _reached(graph: csr_array, match: Ints, *, from_rows: bool) -> tuple[Mask, Mask]:
    """Return the rows and columns on alternating paths from the unmatched rows (or columns)."""
    m, n = graph.shape
    rows, columns = np.zeros(m, dtype=bool), np.zeros(n, dtype=bool)
    here = (graph if from_rows else graph.T).tocsr()
    started, other = (rows, columns) if from_rows else (columns, rows)
    # The partner of an end on the other side, along the matching.
    partner = np.full(len(other), -1)
    partner[match[match >= 0]] = np.flatnonzero(match >= 0)
    front = np.flatnonzero(match < 0)
    started[front] = True
    while len(front):
        first, count = here.indptr[front], np.diff(here.indptr)[front]
        place = np.repeat(first - np.cumsum(count) + count, count) + np.arange(
            count.sum()
        )  # all of the front's entries, in a row
        met = np.unique(here.indices[place])
        met = met[~other[met]]
        other[met] = True
        front = np.unique(partner[met])
        front = front[front >= 0]
        front = front[~started[front]]
        started[front] = True
    return rows, columns

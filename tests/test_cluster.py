"""Trials on a Dask cluster are the same trials: to the last digit, over a worker that is killed and a trial that takes its child down."""

from __future__ import annotations

import os
import signal
from collections.abc import Iterator
from typing import Any

import pytest
from distributed import LocalCluster

from tests.core.test_shakedown import pocket
from wendal.core.errors import CommandRefused
from wendal.core.route import write_part
from wendal.core.trust import Plan, Trial, shaken
from wendal.workers import cluster as on_cluster
from wendal.workers import trials
from wendal.workers.cluster import Cluster
from wendal.workers.trials import Here, Processes

pytestmark = pytest.mark.filterwarnings("ignore")



@pytest.fixture(scope="module")
def workers() -> Iterator[Any]:
    found = LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None, silence_logs=50)
    yield found
    found.close(timeout=10)


def test_a_cluster_finds_the_same(workers: Any) -> None:
    b = pocket()
    plan = Plan(("pocket_depth",), seed=3, sets=0, places=9, ranges={"pocket_depth": (1.0, 15.0)})
    here = list(shaken(b.part, plan, Here()))[-1]
    pool = Cluster(workers.scheduler_address)
    try:
        there = list(shaken(b.part, plan, pool))[-1]
    finally:
        pool.end()
    assert there.model_dump(exclude={"seconds"}) == here.model_dump(exclude={"seconds"})


def test_a_worker_that_is_killed_loses_nothing(workers: Any) -> None:
    pool = Cluster(workers.scheduler_address)
    try:
        assert pool.begin(write_part(pocket().part)).good
        trials = [Trial(i, {"base_depth": f"{5 + i / 10} mm"}) for i in range(24)]
        found = {}
        for n, (number, verdict) in enumerate(pool.run(trials)):
            found[number] = verdict
            if n == 5:
                ids = list(pool._client.run(os.getpid).values())
                os.kill(ids[0], signal.SIGKILL)
        assert sorted(found) == list(range(24))
        assert all(v.good for v in found.values())
        here = Here()
        here.begin(write_part(pocket().part))
        assert {n: dict(v.figures) for n, v in here.run(trials)} == {n: dict(v.figures) for n, v in found.items()}
    finally:
        pool.end()


def test_a_trial_that_takes_its_child_down_is_its_own_result(workers: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    pool = Cluster(workers.scheduler_address)
    try:
        pool.begin(write_part(pocket().part))
        pool.begin(write_part(pocket().part))  # taken up anew, as advice does
        pool._client.run(_kill_children)
        found = dict(pool.run([Trial(i, {"base_depth": f"{8 + i} mm"}) for i in range(6)]))
        assert sorted(found) == list(range(6))
        assert {v.judgement for v in found.values()} <= {"good", "died"}
        assert sum(v.good for v in found.values()) >= 4  # a child each, made anew
    finally:
        pool.end()


def test_a_trial_that_hangs_is_its_own_result(workers: Any) -> None:
    pool = Cluster(workers.scheduler_address)
    try:
        pool.begin(write_part(pocket().part))
        pool._client.run(_hang_children, 1.5)
        found = dict(pool.run([Trial(i, {"base_depth": f"{8 + i} mm"}) for i in range(6)]))
        assert sorted(found) == list(range(6))
        assert {v.judgement for v in found.values()} == {"good", "slow"}
        assert sum(v.good for v in found.values()) >= 4  # a child each, made anew
    finally:
        pool._client.run(_hang_children, 60.0, False)
        pool.end()


def _hang_children(seconds: float, stop: bool = True) -> None:
    """Stop the children where they stand, and wait no longer than so many seconds for a trial."""
    trials.SLOWEST = seconds
    for pool, _ in list(on_cluster._children.values()) if stop else ():
        for worker in pool._workers:
            if worker is not None:
                os.kill(worker.pid, signal.SIGSTOP)


def _kill_children() -> None:
    for pool, _ in list(on_cluster._children.values()):
        for worker in pool._workers:
            if worker is not None:
                worker.kill()


def test_a_scheduler_that_is_not_there_is_said_and_the_setting_chooses(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(on_cluster, "ANSWERS", 1.0)
    with pytest.raises(CommandRefused, match=r"No Dask scheduler answers at tcp://127\.0\.0\.1:9"):
        Cluster("tcp://127.0.0.1:9")
    pool = on_cluster.trial_pool(1)
    assert isinstance(pool, Processes)
    pool.end()

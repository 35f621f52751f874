"""Sampling larger than one window wants: many devices, builds and points, thousands of samples each, on a task scheduler.

The distributed task library runs its own local scheduler unless the address of a cluster is given. Each task is one build at
one operating point; what cannot be computed is told beside the results, and the rest goes on.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    import pandas as pd


class SweepError(AshenError, ValueError):
    """A sweep that cannot be done as it is asked for."""


@dataclass(frozen=True)
class Errand:
    """One build at one operating point of one device."""

    device: str
    project: Project
    build: str
    point: str


@dataclass(frozen=True)
class Outcome:
    """What came of an errand: a table of samples, or why there is none."""

    errand: Errand
    table: pd.DataFrame | None
    problem: str = ""


def errands(projects: Sequence[tuple[str, Project]], builds: Sequence[str], points: Sequence[str]) -> list[Errand]:
    """Return one errand per device, build and point; all of them where none are named. Raises `SweepError` if that is nothing."""
    found = [
        Errand(name, project, build.id, point.id)
        for name, project in projects
        for build in project.builds
        for point in project.points
        if (not builds or build.id in builds) and (not points or point.id in points)
    ]
    if not found:
        raise SweepError("No device has such a build and operating point, so there is nothing to sweep.")
    return found


def work(errand: Errand, count: int, seed: int) -> Outcome:
    """Draw the samples of one errand. Runs in a worker of the scheduler."""
    import pandas as pd

    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.uncertainty.preparation import prepared
    from ashen_bridge.uncertainty.sampling import draw_samples

    try:
        samples = draw_samples(prepared(Engine(), errand.project, errand.build, errand.point), count, seed)
    except AshenError as error:
        return Outcome(errand, None, str(error))
    n, sensors = samples.values_c.shape
    table = pd.DataFrame(
        {
            "device": errand.device,
            "build": errand.build,
            "point": errand.point,
            "sample": [k for k in range(n) for _ in range(sensors)],
            "sensor": list(samples.sensors) * n,
            "temperature_c": samples.values_c.ravel(),
            "limit_c": [limit if limit is not None else float("nan") for limit in samples.limits_c] * n,
        }
    )
    return Outcome(errand, table)


def sweep(todo: Sequence[Errand], count: int, seed: int, cluster: str | None = None, workers: int = 2) -> Iterator[Outcome]:
    """Yield outcomes as they are ready. Raises `SweepError` if the cluster cannot be reached."""
    import dask
    from dask.distributed import Client, LocalCluster, as_completed

    with dask.config.set({"distributed.worker.daemon": False, "distributed.comm.timeouts.connect": "5s"}):
        try:
            local = (
                None if cluster else LocalCluster(n_workers=min(workers, len(todo)), threads_per_worker=1, dashboard_address=None)
            )
            client = Client(cluster or local, timeout=5)
        except (OSError, TimeoutError, ValueError) as error:
            raise SweepError(f"The cluster at '{cluster}' cannot be reached ({type(error).__name__}).") from error
        try:
            futures = client.map(_tasked, list(todo), count=count, seed=seed, pure=False)
            for future in as_completed(futures):
                yield future.result()
        finally:
            client.close()
            if local is not None:
                local.close()


def _tasked(errand: Errand, count: int, seed: int) -> Outcome:
    return work(errand, count, seed)

"""Settings from the environment, all of them here. Each is read from `WENDAL_` and its name in capitals."""

from __future__ import annotations

import os
from collections.abc import Mapping
from functools import cache
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

__all__ = ["Settings", "read_settings", "settings"]

PREFIX = "WENDAL_"
OF_TOOLS = {
    "EXPLORE",
    "COUNTS",
    "SOAK_MINUTES",
    "WAITING",
    "FILES",
}  # of the tests and tools (the README lists them), and of
# processes among themselves


class Settings(BaseModel):
    """How Wendal runs. What is not set has the value that is right for one designer's machine."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    step_seconds: float = Field(60.0, gt=0, description="s that one step may take before its worker is ended")
    evaluation_seconds: float = Field(
        900.0, gt=0, description="s that showing a part may take in all before it is left off"
    )
    geometry_workers: int = Field(2, ge=1, le=64, description="processes that build parts")
    pens: int = Field(3, ge=1, le=64, description="processes that apply edits and solve sketches")
    trial_niceness: int = Field(
        10, ge=0, le=19, description="how far behind everything else the trials of a shakedown run"
    )
    dask: str = Field(
        "", description="a Dask scheduler that does trials, such as tcp://10.0.0.7:8786; else this machine"
    )
    check_messages: bool = Field(
        False, description="hold what is told to windows against its models, for tests"
    )
    log_level: Literal["debug", "info", "warning", "error"] = Field("warning", description="what is logged")
    log_form: Literal["plain", "json"] = Field(
        "plain", description="lines to read, or one JSON object a line"
    )


def read_settings(environment: Mapping[str, str]) -> Settings:
    """Read the settings; raises RuntimeError that names the variable which is unknown or cannot be read."""
    given = {
        name.removeprefix(PREFIX).lower(): value
        for name, value in environment.items()
        if name.startswith(PREFIX) and name.removeprefix(PREFIX) not in OF_TOOLS
    }
    try:
        return Settings.model_validate(given)
    except ValidationError as error:
        first = error.errors()[0]
        name = PREFIX + str(first["loc"][0]).upper()
        if first["type"] == "extra_forbidden":
            known = ", ".join(PREFIX + f.upper() for f in Settings.model_fields)
            raise RuntimeError(f"{name} is not a setting. There are {known}.") from error
        raise RuntimeError(f"{name} is {first['input']}: {first['msg']}.") from error


@cache
def settings() -> Settings:
    """Return the settings of this process."""
    return read_settings(os.environ)

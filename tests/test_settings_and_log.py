"""Settings from the environment, and the log that tells part, step, edit and time."""

from __future__ import annotations

import json
import logging
from collections.abc import Iterator

import pytest

from wendal import log
from wendal.settings import Settings, read_settings


@pytest.mark.parametrize(("given", "expected"), [
    ({}, Settings()),
    ({"WENDAL_STEP_SECONDS": "20", "PATH": "/bin"}, Settings(step_seconds=20)),
    ({"WENDAL_LOG_LEVEL": "debug", "WENDAL_LOG_FORM": "json"}, Settings(log_level="debug", log_form="json")),
    ({"WENDAL_EXPLORE": "1"}, Settings()),  # of the tests
])
def test_settings_are_read(given: dict[str, str], expected: Settings) -> None:
    assert read_settings(given) == expected


@pytest.mark.parametrize(("given", "told"), [
    ({"WENDAL_STEP_SECOND": "20"}, "WENDAL_STEP_SECOND is not a setting. There are WENDAL_STEP_SECONDS"),
    ({"WENDAL_STEP_SECONDS": "soon"}, "WENDAL_STEP_SECONDS is soon"),
    ({"WENDAL_PENS": "0"}, "WENDAL_PENS is 0"),
    ({"WENDAL_LOG_LEVEL": "loud"}, "WENDAL_LOG_LEVEL is loud"),
])
def test_what_is_wrong_with_a_setting_is_told_by_its_name(given: dict[str, str], told: str) -> None:
    with pytest.raises(RuntimeError, match=told):
        read_settings(given)


class Kept(logging.Handler):
    def __init__(self, formatter: logging.Formatter) -> None:
        super().__init__()
        self.setFormatter(formatter)
        self.lines: list[str] = []

    def emit(self, record: logging.LogRecord) -> None:
        self.lines.append(self.format(record))


@pytest.fixture(params=[log.Plain, log.Json])
def kept(request: pytest.FixtureRequest) -> Iterator[Kept]:
    handler, logger = Kept(request.param()), logging.getLogger("trial")
    logger.addHandler(handler)
    logger.setLevel(logging.INFO)
    yield handler
    logger.removeHandler(handler)


def test_a_record_bears_what_is_known_of_what_goes_on(kept: Kept) -> None:
    logger = logging.getLogger("trial")
    with log.about(part=3):
        with log.about(edit="e7"):
            logger.info("kept", extra={"step": "s4", "milliseconds": 12.5})
        logger.info("rested")
    logger.warning("nothing is known")
    first, second, third = kept.lines
    if isinstance(kept.formatter, log.Json):
        told = json.loads(first)
        assert {k: told[k] for k in ("level", "part", "step", "edit", "milliseconds", "message")} == {
            "level": "info", "part": 3, "step": "s4", "edit": "e7", "milliseconds": 12.5, "message": "kept"}
        assert "edit" not in json.loads(second)
        assert "part" not in json.loads(third)
    else:
        assert "INFO trial part=3 step=s4 edit=e7 milliseconds=12.5: kept" in first
        assert "INFO trial part=3: rested" in second
        assert "WARNING trial: nothing is known" in third


def test_a_trace_is_part_of_the_record(kept: Kept) -> None:
    try:
        {}["missing"]
    except KeyError:
        logging.getLogger("trial").exception("failed")
    assert "KeyError: 'missing'" in kept.lines[0]
    if isinstance(kept.formatter, log.Json):
        assert "KeyError" in json.loads(kept.lines[0])["trace"]

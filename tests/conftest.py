"""What all tests share: a database of their own, the served application, a browser."""

from __future__ import annotations

import asyncio
import gc
import logging
import os
import re
import signal
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Coroutine, Generator, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any, TypeVar

import pytest
from _pytest.runner import runtestprotocol
from hypothesis import settings
from playwright.sync_api import Browser, ConsoleMessage, Error, Page, ViewportSize, expect, sync_playwright

from tests import thorough
from tests.e2e.designer import KEYS, Designer
from tests.samples import XY
from tests.trodden import remember_parts
from wendal.demo.builder import Builder
from wendal.store import Database, MariaServer, PartStore

os.environ["WENDAL_CHECK_MESSAGES"] = "true"  # before anything reads the settings
expect.set_options(timeout=60_000)
# The same examples every time, so that a check never fails by chance; WENDAL_EXPLORE=1 looks for new ones.
# No deadline: on a busy machine an example may take its time.
settings.register_profile("steady", derandomize=not os.environ.get("WENDAL_EXPLORE"), deadline=None)
settings.load_profile("steady")
remember_parts()
T = TypeVar("T")
CHROMIUM = "/usr/bin/chromium"
SIZE: ViewportSize = {"width": 1280, "height": 800}
FAILED = pytest.StashKey[bool]()
# Trials stand behind nothing: beside other tests they would wait for the whole run.
QUICK = {"WENDAL_STEP_SECONDS": "20", "WENDAL_TRIAL_NICENESS": "0"}
FLAGS = ["--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--disable-background-networking",
         "--disable-component-update", "--disable-sync", "--no-first-run", "--disable-gpu", "--force-prefers-reduced-motion",
         # What is drawn needs no process of its own: a fifth of the time.
         "--in-process-gpu"]


class GoneThroughAgain:
    """A journey that fails is gone through once more, and that is told: its browser shares the machine with everything else.

    More than a few of them in a run are no chance: then it fails as it did."""

    MOST = 3

    def __init__(self) -> None:
        self.again: list[str] = []

    @pytest.hookimpl(tryfirst=True)
    def pytest_runtest_protocol(self, item: pytest.Item, nextitem: pytest.Item | None) -> bool | None:
        if not item.get_closest_marker("browser"):
            return None
        item.ihook.pytest_runtest_logstart(nodeid=item.nodeid, location=item.location)
        reports = runtestprotocol(item, nextitem=nextitem, log=False)
        if any(r.failed for r in reports) and len(self.again) < self.MOST:
            self.again.append(item.nodeid)
            words = "\n".join(r.longreprtext for r in reports if r.failed)
            item.stash[FAILED] = False
            item._initrequest()  # type: ignore[attr-defined] # its fixtures are made anew
            reports = runtestprotocol(item, nextitem=nextitem, log=False)
            for r in reports:
                r.sections.append(("failed at first", words))
                r.user_properties.append(("again", words))
        for r in reports:
            item.ihook.pytest_runtest_logreport(report=r)
        item.ihook.pytest_runtest_logfinish(nodeid=item.nodeid, location=item.location)
        return True


class ToldAtOnce:
    """What fails is printed when it fails: a run that is ended from outside has said it then."""

    def __init__(self, config: pytest.Config) -> None:
        self.config = config
        self.again: dict[str, str] = {}

    def pytest_runtest_logreport(self, report: pytest.TestReport) -> None:
        screen = self.config.pluginmanager.get_plugin("terminalreporter")
        self.again.update((report.nodeid, str(words)) for name, words in report.user_properties if name == "again")
        if report.failed and screen:
            screen.write_line(f"\n{report.nodeid} ({report.when}, {report.duration:.0f} s)")
            screen.write_line(_shortly(report.longreprtext))

    def pytest_terminal_summary(self, terminalreporter: pytest.TerminalReporter) -> None:
        for name, words in self.again.items():
            terminalreporter.section(f"failed at first: {name}")
            terminalreporter.write_line(_shortly(words))


def _shortly(words: str) -> str:
    """The end of what is said of a failure, and before it which lines of the tests led there."""
    lines = words.splitlines()
    return "\n".join([*(line for line in lines[:-25] if line.startswith("tests/")), *lines[-25:]])


def pytest_configure(config: pytest.Config) -> None:
    """The run as a whole tells at once; its workers only hand on."""
    config.pluginmanager.register(GoneThroughAgain())
    if not hasattr(config, "workerinput"):
        config.pluginmanager.register(ToldAtOnce(config))


def pytest_collection_finish() -> None:
    gc.freeze()  # what is there now stays
    gc.set_threshold(50_000, 20, 50)  # looking for circles took a sixteenth of the time


@pytest.hookimpl(tryfirst=True)  # before tests are chosen by their marks
def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Mark what is left to the thorough run, and journeys. These go first: one process goes through all of them, with one server and one
    browser, while the other does what needs none and takes over from the end."""
    thorough.mark(items, whole=config.args == ["tests"])
    for item in items:
        if "browser" in getattr(item, "fixturenames", ()):
            item.add_marker("browser")
    items.sort(key=lambda item: not item.get_closest_marker("browser"))


class Faults(logging.Handler):
    """Keeps what the application logs as a fault of its own: an error with a trace."""

    def __init__(self) -> None:
        super().__init__(logging.ERROR)
        self.records: list[logging.LogRecord] = []

    def emit(self, record: logging.LogRecord) -> None:
        if record.exc_info:
            self.records.append(record)


@pytest.fixture(autouse=True)
def faults() -> Iterator[list[logging.LogRecord]]:
    """What is logged as a fault of ours fails the test, unless the test asks for it and clears it."""
    handler, logger = Faults(), logging.getLogger("wendal")
    logger.addHandler(handler)
    yield handler.records
    logger.removeHandler(handler)
    assert [r.getMessage() for r in handler.records] == []


@pytest.fixture(scope="session")
def database(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Database]:
    """A MariaDB server of the tests' own, its tables made."""
    server = MariaServer(tmp_path_factory.mktemp("maria"))
    server.start()
    found = Database(server.url)
    found.upgrade()
    yield found
    found.close()
    server.stop()


@pytest.fixture
def store(database: Database) -> PartStore:
    """An empty store."""
    made = PartStore(database)
    for row in made.list():
        made.delete(row.id)
    for row in made.list(binned=True):
        made.delete(row.id, for_good=True)
    return made


class Served:
    """Wendal, started by its own command. url : where it answers."""

    def __init__(self, folder: Path, command: str = "demo", *more: str) -> None:
        self.folder, self.command, self.more = folder, command, more
        self.start()

    def start(self) -> None:
        """Start and wait for the word that it is ready."""
        self.log = self.folder.with_suffix(".log")
        with self.log.open("a") as log:
            self.process = subprocess.Popen([sys.executable, "-m", "wendal", self.command, "--port", "0", "--data", str(self.folder), *self.more],
                                            stdout=subprocess.PIPE, stderr=log, text=True, env={**os.environ, **QUICK})
        self.said: list[str] = []
        for line in self.process.stdout or []:
            self.said.append(line)
            found = re.search(r"ready at (http://\S+) after", line)
            if found:
                self.url, _, token = found[1].partition("/?token=")
                KEYS[self.url] = token
                return
        raise RuntimeError(f"Wendal did not start: {self.said} {self.log.read_text()}")

    def faults(self) -> list[str]:
        """Return what its log says of faults of its own: lines with a trace."""
        text = self.log.read_text()
        return re.findall(r"^.*\n(?=Traceback)", text, re.MULTILINE)

    def stop(self, how: signal.Signals = signal.SIGINT) -> int:
        """End it; return its exit status."""
        self.process.send_signal(how)
        try:
            return self.process.wait(25)
        finally:
            if self.process.stdout:
                self.process.stdout.close()


@pytest.fixture(scope="session")
def served(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Served]:
    """The application with its demo parts."""
    found = Served(tmp_path_factory.mktemp("served"))
    yield found
    assert found.stop() == 0
    assert found.faults() == []


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """Headless Chromium."""
    with sync_playwright() as playwright:
        found = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        yield found
        found.close()


COUNTING = "for (const sort of ['pointerdown', 'keydown']) addEventListener(sort, (e) => e.repeat || countOne(sort), true);"
COARSE = "try { localStorage.setItem('wendal.drawing', 'coarse') } catch { /* a blank page has no storage */ }"


class Window:
    """A browser window. Opening one takes a second of the processor, so the tests of a process share one.

    complaints : what the page threw or complained of. counts : clicks and keys, where these are asked for.
    """

    def __init__(self, browser: Browser) -> None:
        self.complaints: list[str] = []
        self.counts: Counter[str] = Counter()
        self.context = browser.new_context(viewport=SIZE, accept_downloads=True, reduced_motion="reduce")
        self.context.add_init_script(COARSE)
        if os.environ.get("WENDAL_COUNTS"):
            self.context.expose_function("countOne", lambda kind: self.counts.update([kind]))
            self.context.add_init_script(COUNTING)
        self.page = self.context.new_page()
        self.page.set_default_timeout(30_000)
        self.page.on("pageerror", self._threw)
        self.page.on("console", self._said)

    def _threw(self, error: Error) -> None:
        if "on purpose" not in str(error):
            self.complaints.append(str(error))

    def _said(self, message: ConsoleMessage) -> None:
        if message.type == "error" and not re.search("Failed to load|WebSocket connection", message.text):
            self.complaints.append(message.text)

    def clean(self) -> None:
        """Leave nothing of one test to the next: other pages, storage, held keys, the pointer, the size.

        The page stays: the next part is opened from it, as from the list, and must show nothing of this one.
        """
        for other in self.context.pages:
            if other is not self.page:
                other.close()
        if self.page.url != "about:blank":
            self.page.evaluate("localStorage.clear()")
            self.page.evaluate(COARSE)
            if self.page.locator("[data-dialog-overlay]").count():  # as the handbook, which belongs to no part
                self.page.goto("about:blank")
        for key in ("Shift", "Control", "Alt", "q"):
            self.page.keyboard.up(key)
        self.page.mouse.up()
        self.page.mouse.move(0, 0)
        self.page.set_viewport_size(SIZE)
        self.complaints.clear()
        self.counts.clear()


@pytest.fixture(scope="session")
def shared_windows() -> list[Window]:
    """The window that the tests of this process share, once one is open."""
    return []


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item: pytest.Item) -> Generator[None, pytest.TestReport, pytest.TestReport]:
    """Note on a test whether it failed, for what it leaves behind."""
    report = yield
    item.stash[FAILED] = item.stash.get(FAILED, False) or report.failed
    return report


@pytest.fixture
def page(browser: Browser, shared_windows: list[Window], request: pytest.FixtureRequest) -> Iterator[Page]:
    """A clean page; whatever it throws or complains of fails the test.

    With the mark `own_window`, and after a failed test, the window is a new one. With WENDAL_COUNTS=file, the
    clicks and keys of every journey are written there, a line each.
    """
    own = request.node.get_closest_marker("own_window") is not None
    if not own and not shared_windows:
        shared_windows.append(Window(browser))
    window = Window(browser) if own else shared_windows[0]
    yield window.page
    if os.environ.get("WENDAL_COUNTS"):
        with open(os.environ["WENDAL_COUNTS"], "a") as file:
            counts = window.counts
            file.write(f"{request.node.name}: {counts['pointerdown']} clicks, {counts['keydown']} keys\n")
    complaints = list(window.complaints)
    if own or request.node.stash.get(FAILED, False):
        window.context.close()
        if not own:
            shared_windows.clear()
    else:
        window.clean()
    assert complaints == []


@pytest.fixture
def designer(page: Page, served: Served) -> Designer:
    """A person at the browser."""
    return Designer(page, served.url)


@pytest.fixture
def board(designer: Designer) -> Designer:
    """An empty sketch on XY, open."""
    d = designer
    b = Builder("Part")
    b.step("sketch", "Sketch 1", on=XY)
    d.begin(b.part)
    d.page.get_by_role("button", name="Sketch 1", exact=True).click()
    d.board_ready()
    return d


def run_async(work: Coroutine[Any, Any, T]) -> T:
    """Run async work in a thread of its own: the browser of other tests keeps a loop running in this one."""
    with ThreadPoolExecutor(1) as executor:
        return executor.submit(asyncio.run, work).result()


def eventually(told: object, seconds: float = 60.0) -> None:
    """Wait until a function returns something true; long, for a machine may stand still for a while."""
    until = time.monotonic() + seconds
    while not told():  # type: ignore[operator]
        assert time.monotonic() < until, "this did not come about in time"
        time.sleep(0.05)

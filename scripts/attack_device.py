"""A device in the hand that two people share: drafts that fail, a network that goes, pages loaded again, seats that
change. What was taken is stored once under the name of who took it, and nothing else is."""

import random
import re
import socket
import subprocess
import sys
import time
from collections import Counter
from pathlib import Path
from typing import Protocol

from playwright.sync_api import Error, Page, Route, sync_playwright
from sqlalchemy import select

from screens import CHROMIUM, FLAGS, HAND
from waldhorn.core.base.history import Motor
from waldhorn.store import motors
from waldhorn.store.engine import open_store
from waldhorn.store.models import ChangeRow, ReadingRow

COMMAND = [sys.executable, "-m", "waldhorn.cli"]
AT = "127.0.0.2"  # an address of this machine where a seat is needed
PHRASE = "violet anvil tide lantern"
PEOPLE = ("JK", "AB")


class Notes(Protocol):
    """Where what was found is written down."""

    def note(self, kind: str, words: str) -> None:
        """Something that must not be."""


class Device:
    """A browser at a pit that is open to it."""

    def __init__(self, folder: Path, chance: random.Random, found: Notes) -> None:
        self.chance, self.found = chance, found
        self.db = folder / "device.db"
        store = open_store(self.db)
        with store.writing() as session:
            motors.add(session, [Motor("A-1", "Skerry 36", label_kv=3450, poles=4)])
        store.close()
        told = [*COMMAND, "passphrase", "technician", "--db", str(self.db)]
        subprocess.run(told, input=f"{PHRASE}\n", text=True, check=True, capture_output=True)
        with socket.socket() as probe:
            probe.bind((AT, 0))
            port = probe.getsockname()[1]
        command = [*COMMAND, "serve", "--db", str(self.db), "--host", AT, "--port", str(port)]
        self.server = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True)
        while socket.socket().connect_ex((AT, port)):
            time.sleep(0.1)
        self.playwright = sync_playwright().start()
        self.chromium = self.playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        self.context = self.chromium.new_context(base_url=f"http://{AT}:{port}", viewport=HAND)
        self.context.set_default_timeout(20_000)
        self.page: Page = self.context.new_page()
        self.who = ""
        self.taken: dict[float, str] = {}  # rpm and who took it
        self.done: Counter[str] = Counter()

    def close(self) -> None:
        """Let go of browser and server."""
        self.chromium.close()
        self.playwright.stop()
        self.server.terminate()
        if "Traceback" in self.server.communicate()[1]:
            self.found.note("traceback", "the server of the device")

    def attack(self, rounds: int) -> None:
        """So many takings, with things that go wrong between them."""
        self.join()
        self.page.goto("/motors/A-1")
        self.page.get_by_role("button", name=re.compile("Check it")).first.click()
        self.page.wait_for_selector("#bench")
        self.check = re.search(r"/checks/[^/?]+", self.page.url)[0]  # type: ignore[index]
        for number in range(rounds):
            away = self.chance.random() < 0.4
            self.go_to_step()
            if self.chance.random() < 0.4:
                self.drafts_fail()
            if away:
                self.context.set_offline(True)
            self.take(20_000.0 + number)
            if self.chance.random() < 0.4:
                self.type_only()
            if away:
                self.page.wait_for_timeout(self.chance.choice((100, 1500)))
                self.page.goto("about:blank")
                self.context.set_offline(False)
            self.page.unroute("**/draft")
            if self.chance.random() < 0.3:
                self.join()
        self.settle()
        self.compare()

    def join(self) -> None:
        """Somebody takes the device in hand; what the other left waiting is sent in that one's name."""
        self.who = self.chance.choice(PEOPLE)
        self.context.clear_cookies()
        self.page.goto("/join")
        self.page.get_by_label("your initials").fill(self.who)
        self.page.get_by_label("the passphrase").fill(PHRASE)
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector("#rack")
        self.done[f"joined as {self.who}"] += 1

    def go_to_step(self) -> None:
        """The full-throttle step, asked for anew."""
        self.page.goto(f"{self.check}?step=pull")
        self.send_in_their_name()
        self.page.wait_for_selector("#rpm")

    def send_in_their_name(self) -> None:
        """Say yes to what somebody else left waiting here."""
        for _ in range(20):
            button = self.page.locator("#waiting").get_by_role("button", name="Send it")
            if not button.count():
                return
            button.click()
            self.done["sent for another"] += 1
            self.page.wait_for_timeout(300)

    def drafts_fail(self) -> None:
        """The store is busy for drafts."""

        def busy(route: Route) -> None:
            try:
                route.fulfill(status=503, content_type="text/plain", body="busy")
            except Error:
                return  # the page is gone

        self.page.route("**/draft", busy)
        self.done["drafts failed"] += 1

    def take(self, rpm: float) -> None:
        """Type a run and take it, at once or after a moment."""
        for name, value in (("volts", "7.4"), ("amps", "2.1"), ("rpm", f"{rpm:g}")):
            self.page.locator(f"#{name}").fill(value)
        self.page.wait_for_timeout(self.chance.choice((0, 30, 300)))
        self.taken[rpm] = self.who
        self.page.keyboard.press("Control+Enter")
        self.page.wait_for_function("() => document.querySelector('#rpm')?.value !== '%g'" % rpm)  # noqa: UP031
        self.done["taken"] += 1

    def type_only(self) -> None:
        """Type something and leave it."""
        if not self.page.locator("#rpm").count():
            return  # the next step is another one
        self.page.locator("#rpm").fill("19999")
        self.page.wait_for_timeout(self.chance.choice((0, 300)))
        self.done["typed and left"] += 1

    def settle(self) -> None:
        """Let everything arrive that waits."""
        self.page.goto(f"{self.check}?step=pull")
        for _ in range(60):
            self.send_in_their_name()
            if self.page.locator("#waiting").is_hidden():
                return
            self.page.wait_for_timeout(500)
        self.found.note("lost", f"still waiting: {self.page.locator('#waiting').inner_text()}")

    def compare(self) -> None:
        """What is stored against what was taken."""
        store = open_store(self.db)
        with store.reading() as session:
            rows = select(ReadingRow.value, ChangeRow.who).join(ChangeRow, ChangeRow.id == ReadingRow.change_id)
            kept = [(value, who) for value, who in session.execute(rows.where(ReadingRow.measure == "rpm"))]
        store.close()
        values = Counter(value for value, _ in kept)
        for rpm, who in self.taken.items():
            if not values[rpm]:
                self.found.note("lost", f"{rpm:g}, taken by {who}")
        for rpm, count in values.items():
            if count > 1:
                self.found.note("doubled", f"{rpm:g} is there {count} times")
            if rpm not in self.taken:
                self.found.note("made up", f"{rpm:g} was taken by nobody")
        for rpm, who in kept:
            if rpm in self.taken and who.split(",")[0] != self.taken[rpm]:
                self.found.note("another's name", f"{rpm:g} was taken by {self.taken[rpm]}, and stands under {who}")
        print(f"  a device shared by two: {len(self.taken)} taken; {dict(self.done)}", flush=True)

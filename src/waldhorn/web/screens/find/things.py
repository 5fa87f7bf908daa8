"""What Waldhorn can do, in the words one would look for it by, and where: find puts it beside what it finds, the page
of it lists all of it, and docs/what-it-does.md is written from it."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from waldhorn.core.base.text import key_of
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.web.common.addresses import address
from waldhorn.web.common.places import MORE, PLACES

OF_A_MOTOR = "{motor}"


@dataclass(frozen=True)
class Thing:
    """One thing to do: what it is called, where, and other words it is looked for by. An address that begins with
    `OF_A_MOTOR` wants to know of which."""

    name: str
    url: str
    also: str = ""

    @property
    def of_a_motor(self) -> bool:
        """Whether it is done with one motor."""
        return self.url.startswith(OF_A_MOTOR)

    def url_of(self, tag: str) -> str:
        """Where it is done, with this motor; without one, where the motor is chosen."""
        if not self.of_a_motor:
            return self.url
        return self.url.replace(OF_A_MOTOR, address("motors", tag)) if tag else address("find", do=self.name)


THINGS = {
    "Before the heat": (
        Thing("Check a motor", "{motor}#now", "quick full check bench heat test"),
        Thing("Run it live from an instrument", "{motor}#take", "live run analyser meter stream sweep"),
        Thing(
            "Read just one thing", "{motor}#take", "noise gap detent sensors winding poles back-emf heat one reading"
        ),
        Thing("Record what it sounds like", "{motor}#take", "sound hear listen microphone record noise bearings"),
        Thing("Set the timing", "{motor}#take", "timing advance end bell degrees shim"),
        Thing("Sign and hang it back", "{motor}#now", "sign keep retire repair overrule decide"),
        Thing("Which motor shakes?", "/machines", "vibration shakes balance drone arm"),
        Thing("See what needs an answer", "/", "rack worst due overdue"),
    ),
    "What is known of a motor": (
        Thing("Why it is judged so", "{motor}#why", "why reasons evidence faults weights what would turn it explain"),
        Thing("How it moved over time", "{motor}#over-time", "history trend curve figures over time"),
        Thing("The answer of an earlier day", "{motor}#why", "as of day then past judgement"),
        Thing("Every reading and event", "{motor}/book", "book readings log events list checks"),
        Thing("Correct a reading", "{motor}/book", "wrong slip typo set aside outlier fix edit delete"),
        Thing("Correct under what it was read", "{motor}/book", "condition pack propeller distance throttle warm rig"),
        Thing("Undo what was done", "{motor}/book", "undo back mistake"),
        Thing("Move a check to another motor or rig", "{motor}/book", "wrong motor mixed up move"),
        Thing("Say what happened", "{motor}#happened", "event crash dunked bearings replaced runs magnets log machine"),
        Thing("Put it on a machine", "{motor}#happened", "machine seat position boat drone mount moved"),
        Thing("Who signed what, and who was right", "{motor}#signed", "signed signature who was right tally"),
        Thing("Its facts", "{motor}#facts", "facts label rated mass poles slots owner class"),
        Thing("Correct the facts or the tag", "{motor}/facts", "rename tag label edit facts owner"),
        Thing("Two that are one motor", "{motor}#facts", "merge double duplicate same"),
    ),
    "Under load, and what it will do": (
        Thing("Loads it has driven", "{motor}/loads", "propeller thrust watts efficiency grams load sheet brake"),
        Thing("What it will do", "{motor}/predict", "predict propeller pack cells amps thrust temperature rpm"),
        Thing("What a degree of timing costs", "{motor}/predict", "price of a degree timing amps"),
        Thing("What it is worth, used", "{motor}#worth", "second hand sell buy price resale"),
    ),
    "Between motors": (
        Thing("Compare motors", "/compare", "between difference better which"),
        Thing("The two most alike", "/compare?take=2", "pair matched set twin"),
        Thing("Share motors out over machines", "/compare?machines=2", "sets machines partition pairs teams"),
        Thing("What is this motor?", "/identify", "identify no label unknown sibling"),
    ),
    "Motors come and go": (
        Thing("Take in a motor", "/motors/new", "new add register"),
        Thing("Another like it", "{motor}#facts", "copy same model again"),
        Thing("Hand it over", "{motor}#hand-over", "sell give away new owner retire put away send file"),
        Thing("Its own file", "{motor}#hand-over", "download json export one motor"),
    ),
    "On paper": (
        Thing("Print its tag", "{motor}/paper/label", "label tape tag code print"),
        Thing("Print its passport", "{motor}/paper/passport", "passport print card"),
        Thing("Print a report", "{motor}/paper/report", "report print a4 owner"),
        Thing("Print a run sheet", "{motor}/paper/sheet", "run sheet empty pencil print"),
        Thing("Type in a run sheet", "{motor}/sheet", "pencil sheet type in paper"),
        Thing("Print the whole rack", "/paper/rack", "rack list print a4"),
    ),
    "Files": (
        Thing("Bring in a spreadsheet", "/bring-in", "import csv xlsx ods sheet table analyser log"),
        Thing("Bring in another pit's motors", "/bring-in", "import package backup restore json motor file"),
        Thing("Take out everything", "/bring-in#take-out", "export workbook xlsx csv package backup copy"),
    ),
    "Several at one pit": (
        Thing("Let others in", "/settings#others", "open network lan wifi passphrase share tls phone tablet serve"),
        Thing("Join from a phone", "/join", "join qr code address fingerprint certificate scan network"),
        Thing(
            "See who is in, and put somebody out", "/settings#others", "seats devices who kick role owner technician"
        ),
        Thing("Scan a tag", "/scan", "camera qr code tag open bench screen"),
        Thing("Open a motor on another screen", "{motor}#now", "send hand bench screen phone"),
    ),
    "The pit": (
        Thing("Name propellers and packs", "/propellers", "nickname spelling prop blades pack cells same join"),
        Thing("What a rig is worth", "/rigs", "repeatability reference drift rig bench stand"),
        Thing("Connect an instrument", "/instruments", "serial port line format analyser meter"),
        Thing("Set limits", "/limits", "watch act limit threshold class rules"),
        Thing("Set prices and what counts", "/limits#prices", "price cost bearings weights uses score"),
        Thing("Units, who signs, backups, keys", "/settings", "settings celsius fahrenheit oz backup api key theme"),
        Thing("Keys, cautions and words", "/help", "help keys glossary what is caution how it judges"),
    ),
}


def matching(words: str, tag: str = "") -> Iterator[Thing]:
    """The things in whose words all of these begin a word, those by name first; with no words, those of a motor."""
    wanted = key_of(words).split()
    every = [t for group in THINGS.values() for t in group]
    if not wanted:
        yield from (t for t in every if tag and t.of_a_motor)
        return
    yield from (t for t in every if _all_in(wanted, t.name))
    yield from (t for t in every if not _all_in(wanted, t.name) and _all_in(wanted, f"{t.name} {t.also}"))


def quantities(words: str) -> Sequence[tuple[str, str]]:
    """The quantities that are meant: name and title, for their strips."""
    wanted = key_of(words).split()
    return [
        (n, q.title) for n, q in QUANTITIES.items() if wanted and _all_in(wanted, f"{q.title} {n.replace('_', ' ')}")
    ]


def places(words: str) -> Iterator[tuple[str, str]]:
    """The places of that name: name and address."""
    wanted = key_of(words).split()
    named = {t.name for group in THINGS.values() for t in group}
    yield from ((p.name, p.url) for p in (*PLACES, *MORE) if wanted and p.name not in named and _all_in(wanted, p.name))


def _all_in(wanted: Sequence[str], text: str) -> bool:
    words = key_of(text).replace(",", " ").replace("?", " ").split()
    return all(any(word.startswith(part) for word in words) for part in wanted)

"""The words of the pit, for an owner who asks what one of them is: short, in plain speech."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Term:
    """A word and what it is."""

    name: str
    says: str

    @property
    def anchor(self) -> str:
        """Its name within an address."""
        return "-".join(self.name.casefold().split())


GLOSSARY = (
    Term("KV", "How fast a motor wants to turn: revolutions a minute for each volt, with nothing to drive."),
    Term(
        "timing", "How many degrees before its place a winding is switched. More turns faster, draws more, runs hotter."
    ),
    Term(
        "timing spread",
        "How far the three phases differ in their timing. It stands for sensors or a rotor that is uneven.",
    ),
    Term(
        "no-load current", "Amps a motor draws at full throttle with nothing to drive: friction and iron, nothing else."
    ),
    Term("friction", "The part of the drag that is there at any speed: bearings, mostly."),
    Term("speed-dependent loss", "The part of the drag that grows with speed: iron, air and grease."),
    Term("wander", "How far the speed moves to and fro while the throttle stands still."),
    Term("detent", "The steps one feels when turning the shaft by hand: magnets pulling at the teeth."),
    Term("noise", "Decibels at a set distance, against the quiet hall. Only a placed meter can be compared."),
    Term("heat", "How much warmer the can is after a run than the air was."),
    Term("poles", "Magnets around the rotor. An instrument that is told the wrong count reads a wrong speed."),
    Term("back-EMF", "The volts a motor makes when something else turns it: what its magnets and winding are worth."),
    Term(
        "winding resistance",
        "The copper's own resistance, in thousandths of an ohm. A shorted turn lowers one of three.",
    ),
    Term("gap", "The clearance between rotor and stator, by feeler. Uneven around: something is bent."),
    Term("run-out", "How far a shaft or a bell is off its own axis, in millimetres."),
    Term("coast-down", "Letting a motor run out from full speed and timing it: drag without a meter."),
    Term("baseline", "What this motor read when it was known to be good. Everything is held against it."),
    Term("headroom", "How much is left until a limit: at 100 % nothing has moved, at 0 % it is past."),
    Term(
        "watch and act",
        "Two limits of each number. From the first one looks again soon, from the second one does something.",
    ),
    Term("uncertainty", "How far a number may be off, from how well the rig repeats. The bars are as wide as it."),
    Term("repeatability", "How far the same rig differs from itself when nothing has changed."),
    Term("reference motor", "A good motor that is only ever used to check the rig: when it moves, the rig has."),
    Term("rig", "What a motor is measured on: bench, analyser, stand, meter, together."),
    Term("unproven", "The numbers do not settle it. The test that would is named beside it."),
)

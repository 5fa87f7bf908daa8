"""What the pit calls itself and how it wants numbers shown and typed: one row, kept with the store."""

from dataclasses import dataclass, field, fields
from typing import Any

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from waldhorn.core.base.units import Notation
from waldhorn.store.models import MotorRow, PitRow, RigRow
from waldhorn.store.motors import bump


@dataclass(frozen=True, slots=True)
class Pit:
    """A pit's name, who signs and on which rig as a rule, its theme, the units it reads and writes, whether with a
    decimal comma, and what the rules of a class allow at most, by class and measure.

    `pit_id` tells its rigs from those of other pits; `also` are identifiers of stores that became this one.
    """

    pit_id: str
    name: str = ""
    signer: str = ""
    rig: str = ""
    theme: str = "auto"
    temperature: str = "degC"
    torque: str = "N·mm"
    length: str = "mm"
    decimal_comma: bool = False
    also: list[str] = field(default_factory=list)
    maxima: dict[str, dict[str, float]] = field(default_factory=dict)

    @property
    def notation(self) -> Notation:
        """How it writes numbers."""
        return Notation(self.temperature, self.torque, self.length, self.decimal_comma)


_COLUMNS = tuple(f.name for f in fields(Pit))
_QUERY = select(*(getattr(PitRow, n) for n in _COLUMNS))


def load(session: Session) -> Pit:
    """The pit of this store."""
    return Pit(*session.execute(_QUERY).one())


def notation(session: Session) -> Notation:
    """How the pit of this store writes numbers."""
    return load(session).notation


def change_settings(session: Session, **changed: Any) -> None:
    """Change what the pit says of itself."""
    session.execute(update(PitRow).values(changed))
    bump(session)


def is_empty(session: Session) -> bool:
    """Whether the store holds no motor yet."""
    return not session.scalar(select(func.count()).select_from(MotorRow).where(MotorRow.on_rack))


def joined(session: Session, other: str) -> None:
    """Remember that another store of the same pit became one with this."""
    pit = load(session)
    if other and other != pit.pit_id and other not in pit.also:
        change_settings(session, also=[*pit.also, other])


def rigs_of_others(session: Session) -> dict[str, tuple[str, str, str]]:
    """The rigs of other pits by the name they have here: that pit's identifier, its name, what it calls the rig."""
    query = select(RigRow.name, RigRow.pit_id, RigRow.pit_name, RigRow.own_name).where(RigRow.pit_id != "")
    return {name: (pit_id, pit_name, own) for name, pit_id, pit_name, own in session.execute(query)}

"""What belongs to the pit and not to a motor: its settings, limits and prices, rigs, instruments and studies."""

from datetime import datetime
from typing import Any

from sqlalchemy.orm import Mapped, mapped_column

from waldhorn.core.judging.weighing import FAULTY
from waldhorn.store.models.base import Base, RowBase


class PitRow(Base):
    """The one row of what a pit calls itself and how it wants numbers shown; `also` are identifiers of stores that
    became this one, `maxima` what the rules of a class allow at most, by class and measure."""

    __tablename__ = "pit"

    id: Mapped[int] = mapped_column(primary_key=True)
    pit_id: Mapped[str]
    name: Mapped[str]
    signer: Mapped[str]
    rig: Mapped[str]
    theme: Mapped[str]
    temperature: Mapped[str]
    torque: Mapped[str]
    length: Mapped[str]
    decimal_comma: Mapped[bool]
    also: Mapped[list[Any]]
    maxima: Mapped[dict[str, Any]]


class LineFormatRow(Base):
    """How the lines of an instrument are read, by name."""

    __tablename__ = "recipe"

    name: Mapped[str] = mapped_column(primary_key=True)
    recipe: Mapped[dict[str, Any]]


class ApiKeyRow(RowBase, Base):
    """A key of the API: its name and the digest of it; the key itself is kept nowhere."""

    __tablename__ = "api_key"

    name: Mapped[str]
    digest: Mapped[str] = mapped_column(index=True)
    made_at: Mapped[datetime]
    withdrawn_at: Mapped[datetime | None]


class PassphraseRow(Base):
    """What somebody who joins from another device must know, by role: its argon2id hash."""

    __tablename__ = "passphrase"

    role: Mapped[str] = mapped_column(primary_key=True)
    hash: Mapped[str]
    set_at: Mapped[datetime]


class SeatRow(RowBase, Base):
    """A device that has joined: who sits at it, in which role, and when it was put out."""

    __tablename__ = "seat"

    name: Mapped[str]
    role: Mapped[str]
    device: Mapped[str]
    made_at: Mapped[datetime]
    put_out_at: Mapped[datetime | None]


class SecretRow(Base):
    """What only this store knows, by what it is for: the key that signs the cookies of its seats. Never backed up."""

    __tablename__ = "secret"

    name: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[str]


class SheetMappingRow(Base):
    """How a foreign sheet was mapped last, by its header."""

    __tablename__ = "sheet_mapping"

    header: Mapped[str] = mapped_column(primary_key=True)
    mapping: Mapped[dict[str, Any]]


class LimitsRow(RowBase, Base):
    """Limits of a class of motor as someone set them: every change is a new row, the latest holds."""

    __tablename__ = "class_limits"

    motor_class: Mapped[str] = mapped_column(index=True)
    limits: Mapped[dict[str, Any]]
    at: Mapped[datetime]
    signed_by: Mapped[str]


class PricesRow(Base):
    """What an owner sets against each other: a new motor, the repair, a failure in a heat; and the share of motors with
    a fault."""

    __tablename__ = "owner_prices"

    owner: Mapped[str] = mapped_column(primary_key=True)
    new: Mapped[float]
    repair: Mapped[float]
    failure: Mapped[float]
    faulty: Mapped[float] = mapped_column(default=FAULTY)


class UseRow(Base):
    """What a use weighs, in watch limits of each quantity, where a pit sets it otherwise than the usual."""

    __tablename__ = "use_weights"

    use: Mapped[str] = mapped_column(primary_key=True)
    weights: Mapped[dict[str, Any]]


class GoodEnoughRow(Base):
    """How far the motors of a set may lie apart in a class, by quantity, in its change unit."""

    __tablename__ = "good_enough"

    motor_class: Mapped[str] = mapped_column(primary_key=True)
    within: Mapped[dict[str, Any]]


class RigRow(Base):
    """A rig as it was described: what it is, how it is connected, which amps it measures, how it is set; and when it
    was put right last, which starts the chart of its reference motor anew. One of another pit carries that pit's
    identifier and name, and what it is called there."""

    __tablename__ = "rig"

    name: Mapped[str] = mapped_column(primary_key=True)
    what: Mapped[str]
    connected: Mapped[str]
    measures: Mapped[str]
    settings: Mapped[str]
    put_right_at: Mapped[datetime | None]
    pit_id: Mapped[str] = mapped_column(default="")
    pit_name: Mapped[str] = mapped_column(default="")
    own_name: Mapped[str] = mapped_column(default="")


class RigNameRow(Base):
    """A name that was typed for a rig, as it is compared, and the rig it means: one rig may have been typed twice."""

    __tablename__ = "rig_name"

    key: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]


class StudyRow(RowBase, Base):
    """A study of a rig: which motors (by id), how often clamped and how many runs each time, of which measure, in the
    order `seed` draws. Its values are readings of the purpose study, in a check a visit."""

    __tablename__ = "study"

    rig: Mapped[str] = mapped_column(index=True)
    measure: Mapped[str]
    motors: Mapped[list[Any]]
    visits: Mapped[int]
    runs: Mapped[int]
    seed: Mapped[int]
    at: Mapped[datetime]

"""What motors are loaded with and fed from: the propellers and packs of the pit, by the names it knows them by."""

from typing import Any

from sqlalchemy.orm import Mapped

from waldhorn.store.models.base import Base, Withdrawable


class PropellerRow(Withdrawable, Base):
    """A propeller or wheel: its size in `unit` (None: not known), and how else it was written. A correction takes the
    row back and writes another, so that it can be undone."""

    __tablename__ = "propeller"

    name: Mapped[str]
    diameter: Mapped[float | None]
    pitch: Mapped[float | None]
    blades: Mapped[int | None]
    unit: Mapped[str]
    nickname: Mapped[str]
    also: Mapped[list[Any]]


class PackRow(Withdrawable, Base):
    """A pack, likewise."""

    __tablename__ = "pack"

    name: Mapped[str]
    cells: Mapped[float | None]
    capacity_mah: Mapped[float | None]
    pack_mohm: Mapped[float | None]
    note: Mapped[str]

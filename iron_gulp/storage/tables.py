"""Tables. A revision is never changed or removed; a build points at the one that is current."""

from datetime import datetime
from typing import Any

from sqlalchemy import (
    JSON,
    Boolean,
    DateTime,
    Float,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    String,
    Text,
    UniqueConstraint,
)
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


class Base(DeclarativeBase):
    pass


class BuildRow(Base):
    __tablename__ = "build"

    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    name: Mapped[str] = mapped_column(String(80), index=True)
    archived: Mapped[bool] = mapped_column(Boolean, default=False, index=True)
    created_at: Mapped[datetime] = mapped_column(DateTime)
    touched_at: Mapped[datetime] = mapped_column(DateTime, index=True)
    head_number: Mapped[int] = mapped_column(Integer)
    # State at a glance for the garage, written with each change of head: limit, load, target, status.
    summary: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    load: Mapped[float | None] = mapped_column(Float, default=None, index=True)

    revisions: Mapped[list["RevisionRow"]] = relationship(back_populates="build", order_by="RevisionRow.number")


class RevisionRow(Base):
    __tablename__ = "revision"
    __table_args__ = (
        UniqueConstraint("build_id", "number", name="uq_revision_build_number"),
        Index("ix_revision_build_parent", "build_id", "parent_number"),
    )

    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("build.id", ondelete="RESTRICT"))
    number: Mapped[int] = mapped_column(Integer)
    parent_number: Mapped[int | None] = mapped_column(Integer, nullable=True)
    created_at: Mapped[datetime] = mapped_column(DateTime)
    note: Mapped[str] = mapped_column(String(200), default="")
    # The text itself; empty where a difference from the text of another revision stands for it.
    body: Mapped[str] = mapped_column(Text)
    base_number: Mapped[int | None] = mapped_column(Integer, default=None)
    difference: Mapped[bytes | None] = mapped_column(LargeBinary, default=None)

    build: Mapped[BuildRow] = relationship(back_populates="revisions")


class SettingRow(Base):
    """Something the shop told once, as text under a name."""

    __tablename__ = "setting"

    name: Mapped[str] = mapped_column(String(40), primary_key=True)
    body: Mapped[str] = mapped_column(Text)


class PartRow(Base):
    """A part of one's own on the shelf. Removing hides it: builds hold copies, and nothing is lost."""

    __tablename__ = "part"

    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    kind: Mapped[str] = mapped_column(String(24), index=True)
    created_at: Mapped[datetime] = mapped_column(DateTime)
    removed: Mapped[bool] = mapped_column(Boolean, default=False)
    body: Mapped[str] = mapped_column(Text)

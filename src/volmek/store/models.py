"""Tables: job, board, starter with its document, revisions, override reasons; catalogues and presets."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import (
    JSON,
    DateTime,
    ForeignKey,
    Index,
    LargeBinary,
    MetaData,
    String,
    Text,
    TypeDecorator,
    UniqueConstraint,
    false,
    text,
)
from sqlalchemy.engine import Dialect
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


class UtcDateTime(TypeDecorator[datetime]):
    """Times are kept as UTC and come back as UTC."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """Refuse a time without zone, store the others as UTC."""
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("a time without zone cannot be stored")
        return value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """Give the zone back."""
        return None if value is None else value.replace(tzinfo=UTC)


def now() -> datetime:
    """The present moment."""
    return datetime.now(UTC)


class Base(DeclarativeBase):
    """Names every constraint, so that migrations can refer to it."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_label)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "ck": "ck_%(table_name)s_%(constraint_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map = {dict[str, Any]: JSON, datetime: UtcDateTime}  # noqa: RUF012 (SQLAlchemy reads it so)


#: A number is never given out again, so that an old page or an entry on its way never meets another row.
COUNTED = {"sqlite_autoincrement": True}
#: A tag is taken by the starters on a board, not by those in the bin.
ON_BOARD = text("removed IS NULL")


class Job(Base):
    """A piece of work at one site."""

    __tablename__ = "job"
    __table_args__ = COUNTED

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120), unique=True)
    created: Mapped[datetime] = mapped_column(default=now)
    boards: Mapped[list["Board"]] = relationship(back_populates="job", order_by="Board.id", passive_deletes=True)


class Board(Base):
    """A panel with its starters."""

    __tablename__ = "board"
    __table_args__ = (UniqueConstraint("job_id", "name"), COUNTED)

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(40))
    title: Mapped[str] = mapped_column(String(120))
    defaults: Mapped[dict[str, Any]]
    #: Numbers of the catalogues that its starters choose from, the first one first; 0 is the shipped one.
    catalogues: Mapped[str] = mapped_column(String(200), default="0", server_default="0")
    created: Mapped[datetime] = mapped_column(default=now)
    job: Mapped[Job] = relationship(back_populates="boards")
    starters: Mapped[list["Starter"]] = relationship(
        back_populates="board",
        order_by="Starter.position",
        passive_deletes=True,
        primaryjoin="and_(Board.id == Starter.board_id, Starter.removed.is_(None))",
    )


class Starter(Base):
    """One starter: its document, and the version that a change must be based on."""

    __tablename__ = "starter"
    __table_args__ = (
        Index(
            "uq_starter_board_id_tag", "board_id", "tag", unique=True, sqlite_where=ON_BOARD, postgresql_where=ON_BOARD
        ),
        COUNTED,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    board_id: Mapped[int] = mapped_column(ForeignKey("board.id", ondelete="CASCADE"))
    position: Mapped[int]
    tag: Mapped[str] = mapped_column(String(40))
    document: Mapped[dict[str, Any]]
    #: The devices that its design is made of, as JSON text: rows of catalogue cells by table.
    devices: Mapped[str] = mapped_column(Text, default="{}", server_default="{}")
    version: Mapped[int] = mapped_column(default=1)
    saved: Mapped[datetime] = mapped_column(default=now)
    #: When and by whom it was put into the bin; empty while it is on its board.
    removed: Mapped[datetime | None] = mapped_column(default=None)
    removed_by: Mapped[str] = mapped_column(String(80), default="", server_default="")
    #: Who signed in saved it last; empty without sign-in.
    changed_by: Mapped[str] = mapped_column(String(80), default="", server_default="")
    board: Mapped[Board] = relationship(back_populates="starters")


class Listed(Base):
    """What a list shows of a starter, kept under a digest of all that it follows from."""

    __tablename__ = "listed"

    starter_id: Mapped[int] = mapped_column(ForeignKey("starter.id", ondelete="CASCADE"), primary_key=True)
    key: Mapped[str] = mapped_column(String(64))
    cells: Mapped[dict[str, Any]]


class Revision(Base):
    """A state of a starter's document that can be gone back to."""

    __tablename__ = "revision"
    __table_args__ = (Index("ix_revision_starter_id_id", "starter_id", "id"), COUNTED)

    id: Mapped[int] = mapped_column(primary_key=True)
    starter_id: Mapped[int] = mapped_column(ForeignKey("starter.id", ondelete="CASCADE"))
    change: Mapped[str] = mapped_column(String(200))
    document: Mapped[dict[str, Any]]
    saved: Mapped[datetime] = mapped_column(default=now)
    who: Mapped[str] = mapped_column(String(80), default="", server_default="")


class OverrideNote(Base):
    """Why somebody chose against the computed value; kept when the override itself is gone."""

    __tablename__ = "override_note"
    __table_args__ = COUNTED

    id: Mapped[int] = mapped_column(primary_key=True)
    starter_id: Mapped[int] = mapped_column(ForeignKey("starter.id", ondelete="CASCADE"), index=True)
    role: Mapped[str] = mapped_column(String(40))
    choice: Mapped[str] = mapped_column(String(200))
    reason: Mapped[str] = mapped_column(String(300))
    noted: Mapped[datetime] = mapped_column(default=now)


class Catalogue(Base):
    """A catalogue of one's own."""

    __tablename__ = "catalogue"
    __table_args__ = COUNTED

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    changed: Mapped[datetime] = mapped_column(default=now)


class CatalogueDevice(Base):
    """One row of a catalogue: its cells as text, as a file holds them."""

    __tablename__ = "catalogue_device"
    __table_args__ = (UniqueConstraint("catalogue_id", "type"), COUNTED)

    id: Mapped[int] = mapped_column(primary_key=True)
    catalogue_id: Mapped[int] = mapped_column(ForeignKey("catalogue.id", ondelete="CASCADE"))
    kind: Mapped[str] = mapped_column(String(40))
    type: Mapped[str] = mapped_column(String(40))
    cells: Mapped[dict[str, Any]]


class Preset(Base):
    """Parts of a document that a new starter can begin with, under a name."""

    __tablename__ = "preset"
    __table_args__ = COUNTED

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    parts: Mapped[dict[str, Any]]
    saved: Mapped[datetime] = mapped_column(default=now)


class JournalEntry(Base):
    """An entry of a starter's record. Entries are only ever added: triggers refuse every change, removal and replacement."""

    __tablename__ = "journal"
    __table_args__ = (
        UniqueConstraint("starter_id", "key"),
        Index("ix_journal_starter_id_id", "starter_id", "id"),
        COUNTED,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    starter_id: Mapped[int] = mapped_column(ForeignKey("starter.id"))
    key: Mapped[str] = mapped_column(String(64))
    kind: Mapped[str] = mapped_column(String(20))
    body: Mapped[dict[str, Any]]
    who: Mapped[str] = mapped_column(String(80))
    said: Mapped[datetime]
    received: Mapped[datetime] = mapped_column(default=now)
    seen: Mapped[int] = mapped_column(default=0)
    #: Tag of the starter when the entry was made for it; empty in entries of earlier versions.
    tag: Mapped[str] = mapped_column(String(40), default="", server_default="")
    #: Of this entry and all before it; empty inside the block of entries of earlier versions.
    digest: Mapped[str] = mapped_column(String(64), default="", server_default="")
    #: Who wrote it had signed in; else the name is as typed.
    signed: Mapped[bool] = mapped_column(default=False, server_default=false())


class Seal(Base):
    """A starter as it was built: document, computed figures and journal, frozen under a digest."""

    __tablename__ = "seal"
    __table_args__ = COUNTED

    id: Mapped[int] = mapped_column(primary_key=True)
    starter_id: Mapped[int] = mapped_column(ForeignKey("starter.id"), index=True)
    who: Mapped[str] = mapped_column(String(80))
    sealed: Mapped[datetime] = mapped_column(default=now)
    document: Mapped[dict[str, Any]]
    design: Mapped[dict[str, Any]]
    journal_id: Mapped[int]
    digest: Mapped[str] = mapped_column(String(64))
    #: End of the record's chain, the key of the installation, and the digest keyed with it.
    chain: Mapped[str] = mapped_column(String(64), default="", server_default="")
    key_id: Mapped[str] = mapped_column(String(16), default="", server_default="")
    mac: Mapped[str] = mapped_column(String(64), default="", server_default="")
    signed: Mapped[bool] = mapped_column(default=False, server_default=false())


class Emptied(Base):
    """A starter taken out of the bin for good: what is left of its record is the end of its chain."""

    __tablename__ = "emptied"

    starter_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    tag: Mapped[str] = mapped_column(String(40))
    board: Mapped[str] = mapped_column(String(200))
    emptied: Mapped[datetime] = mapped_column(default=now)
    who: Mapped[str] = mapped_column(String(80))
    entries: Mapped[int]
    digest: Mapped[str] = mapped_column(String(64))


class MeterSetting(Base):
    """Address of a starter's panel meter, and its register map."""

    __tablename__ = "meter_setting"

    starter_id: Mapped[int] = mapped_column(ForeignKey("starter.id", ondelete="CASCADE"), primary_key=True)
    setting: Mapped[dict[str, Any]]


class Person(Base):
    """Somebody who may sign in. Who is taken off the list stays in it, so that the name is never another's."""

    __tablename__ = "person"
    __table_args__ = COUNTED

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    #: The name by which people are told apart: no difference of capitals or spaces.
    name_key: Mapped[str] = mapped_column(String(80), unique=True)
    role: Mapped[str] = mapped_column(String(20))
    password: Mapped[str] = mapped_column(String(200))
    #: Counted up to end every sign-in made before.
    epoch: Mapped[int] = mapped_column(default=0)
    active: Mapped[bool] = mapped_column(default=True)
    created: Mapped[datetime] = mapped_column(default=now)


class SignInFailure(Base):
    """Failed sign-ins of one name or from one address since the last that succeeded; seen by every process."""

    __tablename__ = "sign_in_failure"

    subject: Mapped[str] = mapped_column(String(140), primary_key=True)
    failures: Mapped[int]
    last: Mapped[datetime]


class Pairing(Base):
    """A code that signs a tablet in as somebody, once and soon; only its digest is kept."""

    __tablename__ = "pairing"

    digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"))
    epoch: Mapped[int]
    expires: Mapped[datetime]


class Audit(Base):
    """One change that somebody who had signed in made. Rows are only ever added."""

    __tablename__ = "audit"
    __table_args__ = COUNTED

    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime] = mapped_column(default=now, index=True)
    who: Mapped[str] = mapped_column(String(80))
    role: Mapped[str] = mapped_column(String(20))
    operation: Mapped[str] = mapped_column(String(60))
    subject: Mapped[str] = mapped_column(String(200))
    address: Mapped[str] = mapped_column(String(64))


class MeterAddress(Base):
    """An address at which meters may be read, allowed by an administrator."""

    __tablename__ = "meter_address"
    __table_args__ = COUNTED

    id: Mapped[int] = mapped_column(primary_key=True)
    #: A host, an address or a network (``10.20.0.0/24``).
    host: Mapped[str] = mapped_column(String(120), unique=True)
    allowed_by: Mapped[str] = mapped_column(String(80))
    allowed: Mapped[datetime] = mapped_column(default=now)


class WorkState(Base):
    """How far a long request is, for processes that do not work on it themselves."""

    __tablename__ = "work_state"

    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    words: Mapped[str] = mapped_column(String(200))
    done: Mapped[int]
    of: Mapped[int]
    stop: Mapped[bool] = mapped_column(default=False)
    changed: Mapped[datetime] = mapped_column(default=now)
    #: Name of who has signed in and asked.
    owner: Mapped[str] = mapped_column(String(80), default="")
    #: The answer, when it is there.
    status: Mapped[int | None] = mapped_column(default=None)
    headers: Mapped[str] = mapped_column(Text, default="[]")
    body: Mapped[bytes] = mapped_column(LargeBinary, default=b"")

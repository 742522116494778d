"""Builds in the database. A build is kept as build-file text; this room does not know what it means."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import Executable, bindparam, func, insert, select, update
from sqlalchemy.orm import Session, aliased
from zstandard import ZstdError

from .database import Database
from .differences import told, whole
from .tables import BuildRow, RevisionRow, SettingRow

LARGEST_ID = 9_007_199_254_740_992  # whole numbers beyond this are not exact in a browser


class NotFound(LookupError):
    """No build of this id, or no revision of this number."""


class Unreadable(RuntimeError):
    """The stored text of a build cannot be read; the message says why."""


class Conflict(RuntimeError):
    """The build has moved on since the revision an edit was based on."""


@dataclass(frozen=True)
class Revision:
    number: int
    parent: int | None
    created_at: datetime
    note: str
    current: bool


@dataclass(frozen=True)
class Stored:
    """A build at its current revision, and whether one can step back or forward from it."""

    id: int
    number: int
    body: str
    touched_at: datetime
    archived: bool
    note: str
    can_undo: bool
    can_redo: bool


@dataclass(frozen=True)
class Summary:
    """A line of the garage."""

    id: int
    name: str
    archived: bool
    touched_at: datetime
    number: int
    summary: dict[str, Any]


@dataclass(frozen=True)
class Page:
    rows: tuple[Summary, ...]
    total: int


SORTS = {
    "name": (func.lower(BuildRow.name), BuildRow.id),
    "touched": (BuildRow.touched_at.desc(), BuildRow.id.desc()),
    "load": (BuildRow.load.desc().nulls_last(), BuildRow.id),
}


def _now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)


def _current() -> Executable:
    """A build's current revision, the text it is told from, and whether a newer one was made of it."""
    other, base = aliased(RevisionRow), aliased(RevisionRow)
    newer = select(other.id).where(other.build_id == BuildRow.id, other.parent_number == BuildRow.head_number)
    columns = (RevisionRow.number, RevisionRow.body, RevisionRow.difference, base.body, BuildRow.touched_at)
    return (
        select(*columns, BuildRow.archived, RevisionRow.note, RevisionRow.parent_number, newer.exists())
        .join(RevisionRow, (RevisionRow.build_id == BuildRow.id) & (RevisionRow.number == BuildRow.head_number))
        .outerjoin(base, (base.build_id == BuildRow.id) & (base.number == RevisionRow.base_number))
        .where(BuildRow.id == bindparam("build"))
    )


def _head() -> Executable:
    """A build's current revision, its newest, and the text that further ones are told from."""
    known, other = aliased(RevisionRow), aliased(RevisionRow)
    newest = select(func.max(other.number)).where(other.build_id == BuildRow.id).scalar_subquery()
    whole_one = func.coalesce(RevisionRow.base_number, RevisionRow.number)
    return (
        select(BuildRow.head_number, newest, known.number, known.body)
        .join(RevisionRow, (RevisionRow.build_id == BuildRow.id) & (RevisionRow.number == BuildRow.head_number))
        .join(known, (known.build_id == BuildRow.id) & (known.number == whole_one))
        .where(BuildRow.id == bindparam("build"))
    )


# Statements asked with every page and edit are made once: making one costs more than running it.
_CURRENT = _current()
_HEAD = _head()
_ADDED = insert(RevisionRow)
_MOVED_ON = update(BuildRow).where(BuildRow.id == bindparam("build"))
_REVISION = select(RevisionRow).where(
    RevisionRow.build_id == bindparam("build"), RevisionRow.number == bindparam("number")
)


def _whole(difference: bytes, base: str | None) -> str:
    if not base:
        raise Unreadable("the text that its stored one is told from is gone")
    try:
        return whole(difference, base)
    except (ZstdError, UnicodeDecodeError) as error:
        raise Unreadable(f"its stored text is damaged: {error}") from None


class BuildRepository:
    """Keeps builds. `summarise` turns a body into (name, summary, load) for the garage."""

    def __init__(self, database: Database, summarise: Callable[[str], tuple[str, dict[str, Any], float | None]]):
        self._database = database
        self._summarise = summarise

    def create(self, body: str, note: str) -> int:
        """Store a new build; returns its id."""
        name, summary, load = self._summarise(body)
        with self._database.writing() as session:
            return self._add(session, name, summary, load, body, note)

    def furnish(
        self, bodies: Sequence[str], note: str, beside: Callable[[list[int]], Mapping[str, str]] = lambda _: {}
    ) -> int:
        """Store builds where there are none yet, and what `beside` says of their ids as settings, all of it or nothing;
        returns how many builds."""
        told = [(*self._summarise(body), body) for body in bodies]
        with self._database.writing() as session:
            if session.scalar(select(func.count(BuildRow.id))):
                return 0
            ids = [self._add(session, name, summary, load, body, note) for name, summary, load, body in told]
            for setting, text in beside(ids).items():
                session.merge(SettingRow(name=setting, body=text))
        return len(told)

    @staticmethod
    def _add(session: Session, name: str, summary: dict[str, Any], load: float | None, body: str, note: str) -> int:
        now = _now()
        row = BuildRow(
            name=name, archived=False, created_at=now, touched_at=now, head_number=1, summary=summary, load=load
        )
        session.add(row)
        session.flush()
        session.add(RevisionRow(build_id=row.id, number=1, parent_number=None, created_at=now, note=note, body=body))
        return row.id

    def current(self, build_id: int) -> Stored:
        """A build at its current revision. Raises NotFound, Unreadable."""
        with self._database.engine.connect() as connection:
            row = connection.execute(_CURRENT, {"build": build_id}).first()
        if row is None:
            raise NotFound(f"no build {build_id}")
        number, body, difference, base_body, touched_at, archived, note, parent, can_redo = row
        text = body if difference is None else _whole(difference, base_body)
        return Stored(build_id, number, text, touched_at, archived, note, parent is not None, bool(can_redo))

    def head(self, build_id: int) -> int:
        """The number of a build's current revision. Raises NotFound."""
        with self._database.reading() as session:
            return self._row(session, build_id).head_number

    def numbers(self, build_id: int) -> list[int]:
        """Numbers of a build's revisions, the newest first. Raises NotFound."""
        with self._database.reading() as session:
            self._row(session, build_id)
            query = select(RevisionRow.number).filter_by(build_id=build_id).order_by(RevisionRow.number.desc())
            return list(session.scalars(query))

    def body_at(self, build_id: int, number: int) -> str:
        """The text of a revision. Raises NotFound, Unreadable."""
        with self._database.reading() as session:
            return self._text(session, self._revision(session, build_id, number))

    def save(self, build_id: int, base: int, body: str, note: str) -> int:
        """Add a revision on top of revision `base`, which must be current; returns its number.

        Raises Conflict when someone else has moved the build on, NotFound for an unknown build.
        """
        name, summary, load = self._summarise(body)
        with self._database.changing() as connection:
            row = connection.execute(_HEAD, {"build": build_id}).first()
            if row is None:
                raise NotFound(f"no build {build_id}")
            head, newest, known_number, known_body = row
            if head != base:
                raise Conflict(f"revision {base} is no longer current; {head} is")
            number, now, kept = int(newest) + 1, _now(), told(body, known_number, known_body)
            made = {"build_id": build_id, "number": number, "parent_number": base, "created_at": now, "note": note[:200]}
            text = {"body": kept.body, "base_number": kept.base, "difference": kept.difference}
            connection.execute(_ADDED, {**made, **text})
            now_is = {"head_number": number, "touched_at": now, "name": name, "summary": summary, "load": load}
            connection.execute(_MOVED_ON, {"build": build_id, **now_is})
            return number

    def where(self, holds: Callable[[dict[str, Any]], bool]) -> list[int]:
        """Ids of the builds whose summary fulfils a condition."""
        with self._database.reading() as session:
            rows = session.execute(select(BuildRow.id, BuildRow.summary).order_by(BuildRow.touched_at.desc()))
            return [build_id for build_id, summary in rows if holds(summary)]

    def refresh(
        self,
        build_id: int,
        stale: Callable[[dict[str, Any]], bool],
        beside: Callable[[dict[str, Any], dict[str, Any]], Mapping[str, str]] = lambda was, now: {},
    ) -> bool:
        """Summarise a build again where its summary is stale; False when it is not. Revisions stay. Raises NotFound.

        What `beside` says of the summary before and after is stored with it as settings.
        """
        stored = self.current(build_id)
        name, summary, load = self._summarise(stored.body)
        with self._database.writing() as session:
            row = self._row(session, build_id)
            if row.head_number != stored.number or not stale(row.summary):
                return False
            for setting, text in beside(row.summary, summary).items():
                session.merge(SettingRow(name=setting, body=text))
            row.name, row.summary, row.load = name, summary, load
            return True

    def undo(self, build_id: int, base: int | None = None) -> bool:
        """Step back to the revision before the current one (which must be `base`, where given); False without one.

        Raises Conflict, NotFound.
        """

        def former(session: Session, row: BuildRow) -> RevisionRow | None:
            parent = self._revision(session, build_id, row.head_number).parent_number
            return None if parent is None else self._revision(session, build_id, parent)

        return self._move(build_id, base, former)

    def redo(self, build_id: int, base: int | None = None) -> bool:
        """Step forward to the newest revision made from the current one; False when there is none.

        Raises Conflict, NotFound.
        """

        def later(session: Session, row: BuildRow) -> RevisionRow | None:
            found: RevisionRow | None = session.scalar(self._children(build_id, row.head_number))
            return found

        return self._move(build_id, base, later)

    def restore(self, build_id: int, number: int) -> None:
        """Make an old revision current again, as a new revision on top of whatever is. Raises NotFound."""
        body = self.body_at(build_id, number)
        while True:
            try:
                self.save(build_id, self.head(build_id), body, f"restored revision {number}")
            except Conflict:
                continue  # somebody was faster: on top of that, then
            return

    def set_archived(self, build_id: int, archived: bool) -> None:
        """Put a build away, or take it out again. Raises NotFound."""
        with self._database.writing() as session:
            self._row(session, build_id).archived = archived

    def revisions(self, build_id: int, offset: int = 0, limit: int = 50) -> tuple[list[Revision], int]:
        """One page of a build's revisions, newest first, and how many there are. Raises NotFound."""
        columns = (RevisionRow.number, RevisionRow.parent_number, RevisionRow.created_at, RevisionRow.note)
        query = select(*columns).filter_by(build_id=build_id).order_by(RevisionRow.number.desc())
        with self._database.reading() as session:
            row = self._row(session, build_id)
            total = session.scalar(select(func.count(RevisionRow.id)).filter_by(build_id=build_id)) or 0
            found = session.execute(query.offset(offset).limit(limit))
            return [Revision(*each, current=each.number == row.head_number) for each in found], total

    def page(
        self, text: str = "", sort: str = "touched", archived: bool = False, offset: int = 0, limit: int = 50
    ) -> Page:
        """Builds whose name holds `text`, sorted by a key of SORTS, one page of them."""
        query = select(BuildRow).where(BuildRow.archived == archived)
        if text:
            query = query.where(BuildRow.name.icontains(text, autoescape=True))
        with self._database.reading() as session:
            total = session.scalar(query.with_only_columns(func.count())) or 0
            rows = session.scalars(query.order_by(*SORTS.get(sort, SORTS["touched"])).offset(offset).limit(limit))
            found = tuple(Summary(r.id, r.name, r.archived, r.touched_at, r.head_number, r.summary) for r in rows)
        return Page(found, total)

    def _move(self, build_id: int, base: int | None, target: Callable[[Session, BuildRow], RevisionRow | None]) -> bool:
        with self._database.writing() as session:
            row = self._row(session, build_id)
            if base is not None and row.head_number != base:
                raise Conflict(f"revision {base} is no longer current; {row.head_number} is")
            revision = target(session, row)
            if revision is None:
                return False
            row.head_number, row.touched_at = revision.number, _now()
            row.name, row.summary, row.load = self._summarise(self._text(session, revision))
            return True

    @staticmethod
    def _row(session: Session, build_id: int) -> BuildRow:
        row = session.get(BuildRow, build_id)
        if row is None:
            raise NotFound(f"no build {build_id}")
        return row

    @staticmethod
    def _revision(session: Session, build_id: int, number: int) -> RevisionRow:
        row: RevisionRow | None = session.scalar(_REVISION, {"build": build_id, "number": number})
        if row is None:
            raise NotFound(f"no revision {number} of build {build_id}")
        return row

    def _text(self, session: Session, row: RevisionRow) -> str:
        """The whole text of a revision."""
        if row.difference is None:
            return row.body
        if row.base_number is None:
            raise Unreadable("its stored text does not say what it is told from")
        return _whole(row.difference, self._revision(session, row.build_id, row.base_number).body)

    @staticmethod
    def _children(build_id: int, number: int) -> Any:
        return (
            select(RevisionRow)
            .filter_by(build_id=build_id, parent_number=number)
            .order_by(RevisionRow.number.desc())
            .limit(1)
        )

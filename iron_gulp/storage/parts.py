"""Own shelf parts in the database, kept as text; this room does not know what a part means."""

from datetime import UTC, datetime

from sqlalchemy import select

from .database import Database
from .tables import PartRow


class PartRepository:
    def __init__(self, database: Database):
        self._database = database

    def add(self, kind: str, bodies: list[str]) -> list[int]:
        """Store parts of a kind, all or none; returns their ids."""
        now = datetime.now(UTC).replace(tzinfo=None)
        with self._database.writing() as session:
            rows = [PartRow(kind=kind, created_at=now, removed=False, body=body) for body in bodies]
            session.add_all(rows)
            session.flush()
            return [row.id for row in rows]

    def all(self) -> list[tuple[int, str, str]]:
        """(id, kind, body) of every part that is not removed, oldest first."""
        with self._database.reading() as session:
            rows = session.scalars(select(PartRow).where(~PartRow.removed).order_by(PartRow.id))
            return [(row.id, row.kind, row.body) for row in rows]

    def set_removed(self, part_ids: list[int], removed: bool) -> list[int]:
        """Hide parts, or show them again, all in one; gives the ids of those that changed."""
        changed = []
        with self._database.writing() as session:
            for part_id in part_ids:
                row = session.get(PartRow, part_id)
                if row is not None and row.removed != removed:
                    row.removed = removed
                    changed.append(part_id)
        return changed

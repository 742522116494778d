"""What the shop told once, kept as text under a name; this room does not know what it means."""

from .database import Database
from .tables import SettingRow


class SettingRepository:
    def __init__(self, database: Database):
        self._database = database

    def get(self, name: str) -> str | None:
        """The text under a name; None where nothing was told."""
        with self._database.reading() as session:
            row = session.get(SettingRow, name)
            return None if row is None else row.body

    def put(self, name: str, body: str) -> None:
        """Keep a text under a name, in place of what stood there."""
        with self._database.writing() as session:
            session.merge(SettingRow(name=name, body=body))

"""The workshop: one database, one shelf, and the services that interfaces call, each with its task."""

from collections.abc import Mapping
from importlib import resources
from pathlib import Path

from iron_gulp.core.plan import LowSide
from iron_gulp.formats.build_file import BuildFileError
from iron_gulp.shelf import Shelf, load_shelf
from iron_gulp.storage import (
    BuildRepository,
    Conflict,
    NewerDatabase,
    NotFound,
    PartRepository,
    SettingRepository,
    Unreadable,
    open_database,
)
from iron_gulp.storage.attachments import Attachments, folder_beside
from iron_gulp.storage.backup import NoPlace, keep_backup
from iron_gulp.storage.health import Unfit

from .ceilings import Ceilings
from .comparing import Comparing
from .cures import Cures
from .designs import Designs, end_processes, front_name
from .documents import Documents
from .edits import Edits, Outcome
from .evidence import Evidence
from .garage import PAGE_SIZE, Garage
from .jobs import Busy, Jobs
from .judging import Bench, Judging, summarise
from .moved import Movements
from .own_parts import OwnParts, is_own
from .real_parts import RealParts
from .rejudging import Rejudging
from .roads import Roads, Whole
from .sheets import Sheets
from .sizing import Sizing, processes
from .tables import Tables
from .typed import TypedUnits

__all__ = [
    "PAGE_SIZE",
    "Bench",
    "BuildFileError",
    "Busy",
    "Conflict",
    "NewerDatabase",
    "NoPlace",
    "NotFound",
    "Outcome",
    "Unfit",
    "Unreadable",
    "Workshop",
    "is_own",
]


class Workshop:
    """What an application serves on one database: a service a task, and own `parts`."""

    def __init__(self, database_path: Path, shelf: Shelf | None = None):
        self._path = database_path
        self._database = open_database(database_path)
        database = self._database
        builds = BuildRepository(database, summarise)
        self.parts = OwnParts(PartRepository(database), shelf or load_shelf())
        self.garage = Garage(builds, self.parts)
        settings = SettingRepository(database)
        self.movements = Movements(settings)
        self.judging = Judging(builds, self.parts, self.movements)
        self.typed_units = TypedUnits(settings)
        self.edits = Edits(builds, self.parts, self.typed_units)
        self.documents = Documents(builds)
        self.sheets = Sheets(builds, settings)
        self.ceilings = Ceilings(self.judging, self.edits)
        self.evidence = Evidence(self.judging, self.edits, Attachments(folder_beside(database_path)))
        self.jobs = Jobs()
        self.roads = Roads(self.judging, self.edits, settings, self.parts, self.jobs)
        self.sizing = Sizing(self.judging, self.edits, self.garage, self.roads, self.parts, self.jobs, self.typed_units)
        self.cures = Cures(self.judging, self.edits, self.sizing, self.jobs)
        self.designs = Designs(self.judging, self.edits, self.sizing, settings, self.jobs)
        self.comparing = Comparing(self.judging, self.edits, self.roads)
        self.real_parts = RealParts(self.judging, self.edits)
        self.tables = Tables(self.judging, self.edits)
        self.rejudging = Rejudging(self.judging, self.jobs)
        self.rejudging.start()

    def search_roads(self, bench: Bench, low_side: LowSide = "as on the car") -> Whole:
        """Begin to search the roads from an option as whole systems with such a low side. Raises Busy."""
        return self.roads.search(bench, self.sizing.search, processes, low_side)

    def load_demo(self) -> int:
        """Store the demo builds when the garage is empty, with the fronts searched for them; returns how many."""

        def fronts(ids: Mapping[str, int]) -> dict[str, str]:
            found = {}
            for file in resources.files("iron_gulp.demo").joinpath("fronts").iterdir():
                name, option_id = file.name.removesuffix(".json").split(".")
                found[front_name(ids[name], option_id)] = file.read_text(encoding="utf-8")
            return found

        return self.garage.load_demo(fronts)

    def backup(self) -> Path:
        """The whole garage as it is now in one checked file among its backups. Raises Unfit, OSError, sqlite3.Error."""
        return keep_backup(self._path, "by-hand")

    def close(self) -> None:
        """End what is under way, at once, and let the database go; a copied file is then whole."""
        if not self.jobs.close():
            end_processes()
        self._database.close()

    @property
    def shelf(self) -> Shelf:
        """Generic parts and one's own."""
        return self.parts.shelf

"""The controller's own tables: read from what is pasted, kept with the build, and put in place of what was assumed."""

from iron_gulp.core.model import Build, ControllerTable, Edit, Target, Told, dump
from iron_gulp.core.study import TableCells, table_cells, told_at
from iron_gulp.formats.controller_table import Read, TableError, read_table
from iron_gulp.storage import NotFound
from iron_gulp.units import BenchUnits

from .edits import Edits, Outcome
from .evidence_start import today
from .judging import Bench, Judging
from .starter import fresh_id

GASOLINE_AFR = 14.7  # the scale nearly every controller shows ratios on
__all__ = ["Tables", "Told"]
REPLACES: dict[str, str] = {"mixture": "lambda", "volumetric efficiency": "ve_pct"}


class Tables:
    """Takes tables in, and looks at them over the stages."""

    def __init__(self, judging: Judging, edits: Edits):
        self._judging, self._edits = judging, edits

    def paste(
        self, build_id: int, base: int, text: str, what: Told, unit: str, axis: str, target: str, units: BenchUnits
    ) -> Outcome:
        """Keep a table with a build; where it reaches a target, mixture and efficiency assumed there are replaced by it.

        A table of the same kind for the same targets is replaced. Raises NotFound.
        """
        bench = self._judging.bench(build_id)
        try:
            read = read_table(text, what, unit, axis, GASOLINE_AFR, bench.build.car.barometer_kpa, units)
        except TableError as error:
            return Outcome(False, "tables", text, str(error))
        return self._edits.change(
            build_id, base, lambda build: _kept(build, read, what, target), f"{what} table", "tables"
        )

    @staticmethod
    def cells(bench: Bench, table_id: str) -> TableCells:
        """A table over the stages of the option on the bench. Raises NotFound."""
        table = next((one for one in bench.build.tables if one.id == table_id), None)
        if table is None:
            raise NotFound(table_id)
        target = next((one for one in bench.build.targets if one.id == table.target), bench.verdict.target)
        return table_cells(bench.build, bench.option, target, table)


def _kept(build: Build, read: Read, what: Told, target: str) -> list[Edit]:
    """Edits that keep a table, and those of the targets it reaches."""
    own = target if any(one.id == target for one in build.targets) else ""
    rows = [row for row in dump(build)["tables"] if (row["what"], row["target"]) != (what, own)]
    fresh = ControllerTable(
        id=fresh_id("m", [row["id"] for row in rows]),
        what=what,
        target=own,
        day=today(),
        rpm=read.rpm,
        load_kpa=read.load_kpa,
        cells=read.cells,
    )
    edits: list[Edit] = [("tables", [*rows, fresh.model_dump(mode="json")])]
    changed = build.model_copy(update={"tables": (*(one for one in build.tables if one.id != fresh.id), fresh)})
    return edits + [edit for one in build.targets for edit in _replaced(changed, one, what)]


def _replaced(build: Build, target: Target, what: str) -> list[Edit]:
    told = told_at(build, target, what)
    return [] if told is None or what not in REPLACES else [(f"targets/{target.id}/{REPLACES[what]}", round(told, 4))]

"""One size up and down of a part, in words."""

from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.study import Neighbour, neighbours

from .context import Context
from .views import SizeView


class Sizes(Context):
    """Makes what the sizes fold shows."""

    def sizes(self, part_path: str) -> list[SizeView]:
        """One size up and down of the part at a path, with what each changes on this target."""
        return [
            SizeView(one.way, one.part.shelf_id or "", one.part.name, self._effect(one))
            for one in neighbours(self.build, self.verdict, part_path, self.shelf.catalogue)
        ]

    def _effect(self, one: Neighbour) -> str:
        changes = (
            ("supply", one.supply_change_m3_s / M3_S_PER_L_H, "supply_l_h", 0.05),
            ("lifted", one.lift_change_m3_s / M3_S_PER_L_H, "lift_l_h", 0.05),
            ("feed side", one.loss_change_kpa, "loss_kpa", 0.01),
            ("pump inlet", one.inlet_change_kpa, "inlet_kpa", 0.01),
            ("return at idle", one.return_change_kpa, "return_kpa", 0.05),
            ("idle rail", one.idle_change_kpa, "rail_kpa", 0.05),
        )
        told = [f"{label} {self._signed(value, name)}" for label, value, name, least in changes if abs(value) >= least]
        return ", ".join(told) or "changes nothing on this target"

    def _signed(self, value: float, name: str) -> str:
        return ("+" if value > 0 else "") + self.quantity(value, name)

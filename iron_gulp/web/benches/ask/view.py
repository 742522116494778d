"""The Ask page."""

from markupsafe import Markup

from iron_gulp.core.study import pull_gain

from ...parts.locks import WithLocks
from .picture import asked


class View(WithLocks):
    """Car, engine and targets."""

    def pulls(self) -> str:
        """What two recorded pulls say, or nothing."""
        found = pull_gain(self.build)
        if found is None:
            return ""
        expected, got, kept = (
            self.quantity(share * 100.0, "gain_pct") for share in (found.expected, found.got, found.kept)
        )
        return f"The pressure ratio promises {expected} more power; {got} came, {kept} of it."

    def why(self) -> list[str]:
        """Why the option on the bench is as it is, a line each."""
        return [line for line in self.option.why.splitlines() if line.strip()]

    def picture(self) -> Markup:
        """Targets on power against ethanol."""
        return asked(self.bench.judged.verdicts, self.target.id, self.units)

"""Makes iron_gulp/demo/fronts/ by searching the generic shelf for the demo builds: `make fronts`."""

import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from iron_gulp.core.plan import Locks  # noqa: E402
from iron_gulp.services.workshop import Workshop  # noqa: E402

OUT = ROOT / "iron_gulp/demo/fronts"
SEARCHED = (("curlew", "as-built"),)


def main() -> None:
    """One file a build and option."""
    OUT.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as data:
        workshop = Workshop(Path(data) / "garage.sqlite3")
        workshop.garage.load_demo()
        for name, option_id in SEARCHED:
            build_id = workshop.garage.page(name).rows[0].id
            workshop.designs.start(workshop.judging.bench(build_id, option_id), Locks())
            workshop.designs.wait(build_id, option_id)
            text = workshop.designs.kept(build_id, option_id)
            assert text is not None
            (OUT / f"{name}.{option_id}.json").write_text(text + "\n", encoding="utf-8")
            print(f"· iron_gulp/demo/fronts/{name}.{option_id}.json")
        workshop.close()


if __name__ == "__main__":
    main()

"""The schema's revisions, and the tables by which a database is known to be a garage."""

from functools import cache
from pathlib import Path

from alembic.config import Config
from alembic.script import ScriptDirectory

MIGRATIONS = Path(__file__).parent / "migrations"
# What every revision of the schema has: a database without them is another program's, whatever it is called.
OURS = {
    "build": {"id", "name", "archived", "head_number", "summary"},
    "revision": {"id", "build_id", "number", "parent_number", "body"},
}


def config() -> Config:
    """What Alembic works from."""
    found = Config()
    # Percent signs in a path are no placeholders.
    found.set_main_option("script_location", str(MIGRATIONS).replace("%", "%%"))
    return found


@cache
def known() -> frozenset[str]:
    """The revisions of the schema this version knows; they come with the application."""
    return frozenset(script.revision for script in ScriptDirectory.from_config(config()).walk_revisions())


@cache
def head() -> str | None:
    """The newest revision of the schema."""
    return ScriptDirectory.from_config(config()).get_current_head()

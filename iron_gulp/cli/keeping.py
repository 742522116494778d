"""What goes in and out of a garage: build files, backups, what a maintainer needs."""

import json
from pathlib import Path
from typing import Annotated

import typer

from iron_gulp.formats import build_file
from iron_gulp.storage.backup import keep_backup, write_backup
from iron_gulp.storage.pack import pack as write_pack
from iron_gulp.storage.repository import LARGEST_ID
from iron_gulp.storage.restoring import must_stand
from iron_gulp.storage.restoring import restore as put_back
from iron_gulp.storage.whole import write_whole

from .shared import DataDir, app, held, or_say, read_build, refuse, say, settings_of, workshop_of


@app.command()
def export(
    build_id: Annotated[int, typer.Argument(min=1, max=LARGEST_ID)],
    file: Path,
    data: DataDir = None,
    overwrite: Annotated[bool, typer.Option("--overwrite", help="Replace FILE where it is there already.")] = False,
) -> None:
    """Write a build of the garage to a build file."""
    workshop = workshop_of(settings_of(data), create=False)
    try:
        _, text = workshop.documents.export(build_id)
    finally:
        workshop.close()
    if file.exists() and not overwrite:
        refuse([f"{file} is there already and was left as it is; --overwrite replaces it"])
    with or_say("nothing was exported"):
        write_whole(file, text.encode())


@app.command("import")
def import_(file: Path, data: DataDir = None) -> None:
    """Read a build file into the garage; prints the new build's id."""
    build = read_build(file)
    workshop = workshop_of(settings_of(data))
    try:
        typer.echo(workshop.garage.import_build(build_file.write(build)))
    finally:
        workshop.close()


@app.command()
def backup(file: Annotated[Path | None, typer.Argument()] = None, data: DataDir = None) -> None:
    """Write the whole garage, kept files included, into one checked FILE, or among its backups; a server may run
    meanwhile."""
    settings = settings_of(data)
    if not settings.database.exists():
        must_stand(settings.database)
        refuse([f"{settings.database}: there is no database yet"])
    with or_say("no backup was written"):
        if file is None:
            file = keep_backup(settings.database, "by-hand")
        else:
            write_backup(settings.database, file)
    typer.echo(f"{file} is a whole copy")


@app.command()
def restore(file: Path, data: DataDir = None) -> None:
    """Make a backup the garage; what stood there is kept whole in a folder of its own."""
    settings = settings_of(data)
    with held(settings), or_say("nothing was restored"):
        done = put_back(settings.database, file)
    aside = f"; what stood there is now in {done.aside}" if done.aside else ""
    typer.echo(f"{settings.database} is what {file} was{aside}")
    if done.missing:
        say([f"{len(done.missing)} kept files are not in this backup: {', '.join(done.missing[:20])}"])


@app.command()
def pack(file: Annotated[Path, typer.Argument()] = Path("iron-gulp-pack.zip"), data: DataDir = None) -> None:
    """Pack what a maintainer needs into FILE: versions, the database's state, the log; no build, no client's name."""
    settings = settings_of(data)
    with or_say("nothing was packed"):
        told = write_pack(settings.data, settings.database, file)
    typer.echo(f"{file} holds {', '.join(told)}")


@app.command()
def schema() -> None:
    """Print the JSON Schema of the build file."""
    typer.echo(json.dumps(build_file.schema(), indent=2, ensure_ascii=False))

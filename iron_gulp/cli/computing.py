"""What is worked out of a build file, as JSON and CSV."""

import json
from collections.abc import Callable
from inspect import Parameter, Signature, signature
from pathlib import Path
from typing import Annotated, Any

import typer
from pydantic import ValidationError

from iron_gulp.core.account import chance_report, solve_report
from iron_gulp.core.model import Rates, problems_of
from iron_gulp.core.plan import KEEPS, Answers, Locks, Search, front_told, locks_of
from iron_gulp.core.study import DRAWS, SEED, envelope
from iron_gulp.formats import build_file, envelope_csv
from iron_gulp.services.sizing import size_answers
from iron_gulp.shelf import load_shelf
from iron_gulp.units import BenchUnits

from .shared import app, read_build, read_small, refuse


@app.command()
def solve(
    file: Path,
    option: Annotated[str | None, typer.Option(help="Option id; the first when left out.")] = None,
    target: Annotated[
        str | None, typer.Option("--target", "--duty", help="Target id; the first when left out (formerly --duty).")
    ] = None,
) -> None:
    """Print the complete solution of a target of a build file as JSON."""
    build = read_build(file)
    try:
        typer.echo(json.dumps(solve_report(build, option, target), indent=2, ensure_ascii=False))
    except KeyError as error:
        refuse([str(error.args[0])])


@app.command()
def chance(
    file: Path,
    option: Annotated[str | None, typer.Option(help="Option id; the first when left out.")] = None,
    draws: Annotated[int, typer.Option(min=1, max=20_000, help="Cars drawn.")] = DRAWS,
    seed: Annotated[int, typer.Option(min=0, help="The same seed draws the same cars.")] = SEED,
) -> None:
    """Print the chance that an option of a build file carries its targets, and quantiles of every load, as JSON."""
    build = read_build(file)
    try:
        typer.echo(json.dumps(chance_report(build, option, draws, seed), indent=2, ensure_ascii=False))
    except KeyError as error:
        refuse([str(error.args[0])])


@app.command()
def ceilings(
    file: Path,
    option: Annotated[str | None, typer.Option(help="Option id; the first when left out.")] = None,
    target: Annotated[str | None, typer.Option(help="Target id; the first when left out.")] = None,
) -> None:
    """Print the power at which each component runs out on every blend, as CSV."""
    build = read_build(file)
    try:
        found = envelope(build, build.option(option), build.target(target))
    except KeyError as error:
        refuse([str(error.args[0])])
    typer.echo(envelope_csv.write(found), nl=False)


NOTHING_FITS = 3


def _locks(**told: Any) -> Locks:
    """Locks as typed; `None` is what a lock is by itself."""
    try:
        return Locks.model_validate({name: value for name, value in told.items() if value is not None})
    except ValidationError as error:
        refuse([f"{_flag(one.path.split('/')[0])}: {one.message}" for one in problems_of(error)])


def _flag(name: str) -> str:
    return "--" + name.removesuffix("_pct").replace("_", "-")


def with_locks(command: Callable[..., None]) -> Callable[..., None]:
    """A command that takes every lock of the list as an option, its values in the help; it gets them as `locks`."""

    def locked(**told: Any) -> None:
        names = [one.name for one in locks_of()]
        locks = _locks(keep=tuple(told.pop("keep") or ()), **{name: told.pop(name) for name in names})
        command(locks=locks, **told)

    own = [one for one in signature(command).parameters.values() if one.name != "locks"]
    kept = typer.Option("--keep", help="Leave a kind of parts alone, again for each: " + ", ".join(KEEPS))
    more = [Parameter("keep", Parameter.KEYWORD_ONLY, default=None, annotation=Annotated[list[str] | None, kept])]
    for one in locks_of():
        said = f"{one.title}: " + (", ".join(one.choices) or Locks.when_empty.get(one.name, "a number"))
        kind = str if one.choices else int if one.name == "most_pumps" else float
        option = typer.Option(_flag(one.name), help=said, show_default=one.usual or False)
        more.append(Parameter(one.name, Parameter.KEYWORD_ONLY, default=None, annotation=Annotated[kind | None, option]))
    shown: Any = locked
    shown.__signature__ = Signature([*own, *more])
    locked.__annotations__ = {one.name: one.annotation for one in [*own, *more]}
    locked.__doc__, locked.__name__ = command.__doc__, command.__name__
    return locked


@app.command()
@with_locks
def design(
    file: Path,
    locks: Locks,
    option: Annotated[str | None, typer.Option(help="Option id; the first when left out.")] = None,
    workers: Annotated[int, typer.Option(min=1, max=64, help="Processes.")] = 1,
) -> None:
    """Search the shelf for complete systems that nothing beats in cost, headroom and complexity; prints them as JSON.

    Exit code 3 where nothing fits: the nearest is printed.
    """
    build = read_build(file)
    try:
        chosen = build.option(option)
    except KeyError as error:
        refuse([str(error.args[0])])
    before = next((one for one in build.options if one.id == build.fitted_today), None)
    search = Search(build, chosen, load_shelf().catalogue, Rates(), locks, before)
    for found in search.run(workers=workers):
        typer.echo(f"{found.tried} systems judged, {len(found.front)} designs", err=True)
    typer.echo(json.dumps(front_told(search.found), indent=2, ensure_ascii=False))
    if not search.found.front:
        raise typer.Exit(NOTHING_FITS)


@app.command()
@with_locks
def size(file: Path, locks: Locks) -> None:
    """Size a whole system from a JSON file of answers; prints the build, what was assumed and the account of every part.

    Exit code 3 where nothing carries every target: the nearest is printed.
    """
    try:
        answers = Answers.model_validate_json(read_small(file), strict=True)
    except ValidationError as error:
        refuse([f"{one.path or file}: {one.message}" for one in problems_of(error)])
    shelf = load_shelf()
    try:
        build, assumed, sized = size_answers(answers, shelf, Rates(), BenchUnits(), locks=locks)
    except LookupError as error:
        typer.echo(str(error), err=True)
        raise typer.Exit(NOTHING_FITS) from None
    told = {"carries": sized.carries, "assumed": assumed, "account": list(sized.account)}
    told["build"] = json.loads(build_file.write(build))
    typer.echo(json.dumps(told, indent=2, ensure_ascii=False))
    if not sized.carries:
        raise typer.Exit(NOTHING_FITS)

"""What is worked out of a build file, as JSON and CSV."""

import json
from pathlib import Path
from typing import Annotated

import typer
from pydantic import ValidationError

from iron_gulp.core.account import chance_report, solve_report
from iron_gulp.core.model import Rates, problems_of
from iron_gulp.core.plan import Locks, Search, front_told
from iron_gulp.core.study import DRAWS, SEED, envelope
from iron_gulp.formats import envelope_csv
from iron_gulp.shelf import load_shelf

from .shared import app, read_build, refuse


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


@app.command()
def design(
    file: Path,
    option: Annotated[str | None, typer.Option()] = None,
    keep: Annotated[list[str] | None, typer.Option()] = None,
    returns: Annotated[str, typer.Option()] = "either",
    most_pumps: Annotated[int, typer.Option()] = 3,
    budget: Annotated[float | None, typer.Option()] = None,
    base_pressure: Annotated[str, typer.Option(help="may change, or as it is")] = "may change",
    booster: Annotated[str, typer.Option(help="none, or where it helps; a helper pump in line as well")] = "none",
    headroom: Annotated[float | None, typer.Option(help="per cent")] = None,
    workers: Annotated[int, typer.Option(min=1, max=64)] = 1,
) -> None:
    """Search the shelf for complete systems that nothing beats in cost, headroom and complexity; prints them as JSON."""
    build = read_build(file)
    try:
        chosen = build.option(option)
        told = {"keep": tuple(keep or ()), "returns": returns, "most_pumps": most_pumps, "budget": budget}
        told |= {"base_pressure": base_pressure, "booster": booster, "headroom_pct": headroom}
        locks = Locks.model_validate(told)
    except KeyError as error:
        refuse([str(error.args[0])])
    except ValidationError as error:
        refuse([f"{one.path}: {one.message}" for one in problems_of(error)])
    before = next((one for one in build.options if one.id == build.fitted_today), None)
    search = Search(build, chosen, load_shelf().catalogue, Rates(), locks, before)
    for found in search.run(workers=workers):
        typer.echo(f"{found.tried} systems judged, {len(found.front)} designs", err=True)
    typer.echo(json.dumps(front_told(search.found), indent=2, ensure_ascii=False))

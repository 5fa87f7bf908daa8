"""The commands that judge and match what is stored."""

import json
import sys
from contextlib import closing
from datetime import datetime
from typing import Annotated

import typer

from waldhorn.cli.command import OWN, DbOption, app, fail, now
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.text import key_of


@app.command()
def judge(
    tags: Annotated[list[str] | None, typer.Argument(metavar="[TAG]...")] = None,
    db: DbOption = OWN / "waldhorn.db",
    as_of: Annotated[str | None, typer.Option(help="Judge from what was known at this time (ISO 8601).")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON array.")] = False,
) -> None:
    """Judge the named motors, or all."""
    from waldhorn.cli.opened import existing
    from waldhorn.exchange.judgement import to_json
    from waldhorn.pit.judging import judging
    from waldhorn.store import motors

    at = _timestamp(as_of) if as_of else now()
    with closing(existing(db)) as store, store.reading() as session:
        known = motors.ids_by_tag(session)
        if strange := [t for t in tags or [] if key_of(t) not in known]:
            fail([f"no motor “{tag}” in {db}" for tag in strange])
        wanted = [known[key_of(t)] for t in tags] if tags else None
        found = list(judging.judge_all(session, at, wanted).values())
    if as_json:
        json.dump([to_json(j) for j in found], sys.stdout, ensure_ascii=False, indent=1)
        typer.echo()
    else:
        for j in found:
            typer.echo(f"{j.motor}: {j.headline} {j.reason}")


@app.command()
def match(
    tags: Annotated[list[str], typer.Argument(metavar="TAG TAG...")],
    take: Annotated[int, typer.Option(help="How many motors a set has.")] = 2,
    db: DbOption = OWN / "waldhorn.db",
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
) -> None:
    """Compare motors at equal conditions and pick the set of them that is most alike."""
    from waldhorn.cli.opened import existing
    from waldhorn.core.comparing import words
    from waldhorn.core.comparing.sets import Chosen
    from waldhorn.exchange import matching
    from waldhorn.pit.between.comparison import between

    with closing(existing(db)) as store, store.reading() as session:
        found = between(session, tags, now(), take)
    compared, partition = found.compared, found.partition
    if not partition.sets:
        raise InputError("take", partition.refused)
    best = partition.sets[0]
    if as_json:
        chosen = Chosen(best, partition.runners_up, partition.left_over)
        json.dump(matching.to_json(chosen, partition.alike, compared.rows), sys.stdout, ensure_ascii=False, indent=1)
        typer.echo()
        return
    typer.echo(words.set_words(best.motors, partition.alike, best.score))
    for row in compared.rows:
        typer.echo(f"{row.quantity.title}: {words.row_words(row)}")


@app.command("loads")
def loads_(
    tags: Annotated[list[str], typer.Argument(metavar="TAG...")],
    db: DbOption = OWN / "waldhorn.db",
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
) -> None:
    """Put the load rows of motors side by side: which makes more on the same propeller and pack."""
    from waldhorn.cli.opened import existing
    from waldhorn.exchange import loads
    from waldhorn.pit.between.loads import sheet

    with closing(existing(db)) as store, store.reading() as session:
        found = sheet(session, tags)
    if as_json:
        told = loads.to_json(found.rows, found.differences, found.crossings)
        json.dump(told, sys.stdout, ensure_ascii=False, indent=1)
        typer.echo()
        return
    for line in (found.says, *found.more, *found.over, *found.rests_on):
        typer.echo(line)


def _timestamp(text: str) -> datetime:
    from waldhorn.core.base.times import read_timestamp

    at = read_timestamp(text, None)
    return at if at.tzinfo else at.astimezone()

"""``orvik form-units``: unit areas from linework and tags."""

from __future__ import annotations

import argparse

from orvik.cli.arguments import add_project


def arguments(parser: argparse.ArgumentParser) -> None:
    add_project(parser)
    parser.add_argument(
        "--take-ground", action="store_true", help="let tags have ground that areas of other units hold"
    )


def run(options: argparse.Namespace) -> None:
    from orvik.store.project import opened_for_writing
    from orvik.usecases.compile.forming import form_units, taken_words

    with opened_for_writing(options.project) as project:
        plan = form_units(project, options.take_ground)
        print(
            f"{plan.formed} faces have their unit; {len(plan.kept)} areas made or changed, {len(plan.deleted)} replaced"
        )
        for said in taken_words(plan, project.crs.metres_per_unit):
            print(said)
        if plan.takings and not options.take_ground:
            print("These faces stay as they are. With --take-ground the tags have their way.")

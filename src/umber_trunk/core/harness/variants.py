"""A variant of a harness as a harness of its own.

It is made by the edits a builder would make: what isn't in it is taken out with all that can't be without it, what is
other is changed. So whatever is worked out of it is what a harness made for it alone would say.
"""

from __future__ import annotations

import json
from collections.abc import Sequence

from umber_trunk.core.errors import EditError, InputError
from umber_trunk.core.harness.edits import change, drop, put, verified
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.option import Changed, Only, Option, Variant
from umber_trunk.core.harness.remove import remove


def variant_of(design: Design, name: str) -> Design:
    """The harness of a variant, which has no options any more; `name` is a variant's, or options' with + between.
    InputError for one there is none of, and for an option that says what can't be."""
    variant = next((one for one in design.variants if one.id == name), None)
    options = variant.options if variant is not None else tuple(name.split("+"))
    known = {option.id for option in design.options}
    missing = [option for option in options if option not in known]
    if missing:
        there = ", ".join([*(one.id for one in design.variants), *sorted(known)]) or "none so far"
        raise InputError.of(
            "harness.no-variant-or-option", missing=missing[0][:80], project=design.project.name, there=there
        )
    return with_options(design, options)


def with_options(design: Design, chosen: Sequence[str]) -> Design:
    """The harness with these options and no others."""
    made = design
    for option in design.options:
        gone = option.without if option.id in chosen else option.only
        kept = {(one.table, one.id) for other in design.options if other.id in chosen for one in other.only}
        for one in gone:
            if (one.table, one.id) not in kept or option.id in chosen:
                made = _taken_out(made, option, one)
    for option in design.options:
        if option.id in chosen:
            for changed in option.changes:
                made = _changed(made, option, changed)
    made = made.model_copy(update={"options": (), "variants": ()})
    try:
        return verified(design, made)
    except EditError as why:
        raise InputError(f"{' + '.join(chosen) or 'Without options'}: {why}") from why


def _taken_out(design: Design, option: Option, one: Only) -> Design:
    """Without a part; it may have gone along with another."""
    if all(row.id != one.id for row in getattr(design, one.table)):
        return design
    try:
        return remove(design, one.table, one.id)
    except EditError as why:
        raise InputError.of("harness.option-fails", option=option.id, why=why) from why


def _changed(design: Design, option: Option, changed: Changed) -> Design:
    """With a part's value changed; what isn't in this variant isn't changed."""
    part = next((row for row in getattr(design, changed.table) if row.id == changed.id), None)
    if part is None:
        return design
    where = f"Option {option.id}: {changed.table} {changed.id}"
    if changed.field not in type(part).model_fields or changed.field == "id":
        raise InputError.of("harness.no-field-to-vary", where=where, field=changed.field[:80])
    try:
        fresh = change(part, **{changed.field: json.loads(changed.to)})
        return put(design, changed.table, fresh)  # type: ignore[arg-type]
    except (EditError, ValueError) as why:
        raise InputError.of("harness.change-fails", where=where, field=changed.field, why=why) from why


def put_option(design: Design, option: Option) -> Design:
    """With an option, in place of the one of its id. InputError where it names a part there is none of, or can't be
    made with and without."""
    named = [(one.table, one.id) for one in (*option.only, *option.without)]
    for table, part in [*named, *((one.table, one.id) for one in option.changes)]:
        if all(row.id != part for row in getattr(design, table)):
            raise InputError.of("harness.option-names-missing-part", option=option.id, table=table, part=part)
    made = put(design, "options", option)
    for chosen in ([option.id], []):
        with_options(made, chosen)
    return made


def put_variant(design: Design, variant: Variant) -> Design:
    """With a variant, in place of the one of its id. InputError for options there are none of."""
    if any(option.id == variant.id for option in design.options):
        raise InputError.of("harness.options-name-already", variant=variant.id)
    made = put(design, "variants", variant)
    variant_of(made, variant.id)
    return made


def without_option(design: Design, name: str) -> Design:
    """Without an option, or a variant, of that id; its parts stay. InputError for one there is none of, or that a
    variant has."""
    if any(one.id == name for one in design.variants):
        return drop(design, "variants", [name])
    users = [one.id for one in design.variants if name in one.options]
    if users:
        raise InputError.of("harness.option-in-use", users=", ".join(users), name=name)
    if all(one.id != name for one in design.options):
        raise InputError.of("harness.no-option-or-variant", name=name[:80])
    return drop(design, "options", [name])

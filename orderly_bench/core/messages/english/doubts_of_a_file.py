"""Doubts of a file that is analysed by itself, each with what would remove it."""

from __future__ import annotations

#: By code, or code/variant: the doubt, and what would remove it.
ABOUT_A_FILE: dict[str, tuple[str, str]] = {
    "repeated_id": (
        "{n:cutting stands|cuttings stand} twice ({first}): a cutting counts once. --day COLUMN: rows are looks on several days, and each counts as it was last seen.",
        "Keep each cutting once, or name the column of the day",
    ),
    "tally": (
        "A tally of {pieces:piece|pieces}: each of its {rows:row|rows} is taken for one unit, such as a tray. Is it? --single: each piece was drawn to its arm by itself; --unit COLUMN: rows share a unit.",
        "Say which it is",
    ),
    "tally/numbers": (
        "A tally of {pieces:piece|pieces}: each of its {rows:row|rows} is taken for one unit, such as a tray. Is it? --unit COLUMN: rows share a unit.",
        "Say which it is",
    ),
    "tally_values": (
        "{column} is one number for the cuttings of a row: what rooted shares it evenly, what did not has none. Only rows are compared; how cuttings of a row differed is not known.",
        "Give each cutting its row where each was measured",
    ),
    "rooted_by_number": (
        "No column says what rooted: what has one root or more did, and where the number is blank it is unknown.",
        "Add a column rooted if less than a root counts, or if blank is none",
    ),
    "arms_across": (
        "Columns {columns} are taken for the arms of {factor}: each cell below is a cutting, or a tray where it counts several; a blank one is none.",
        "Write a row for each cutting with its arm beside it if they are something else",
    ),
    "reps_across": (
        "Columns {columns} are taken for replicates (column {word}): a cell below is a tray where it counts several, else a cutting.",
        "Write a row for each with its replicate beside it if they are something else",
    ),
    "arms_across/on_its_side": (
        "The table lies on its side: columns {columns} are taken for the arms, rows {rows} for what was counted.",
        "Write a row for each tray or cutting if they are something else",
    ),
    "looks_across": (
        "Columns {columns} are taken for looks, {days} days after sticking; where a cell is blank nobody looked.",
        "Head the column of what is compared by its name if they are something else",
    ),
    "looks_across/dates": (
        "Columns {columns} are taken for looks on those days; where a cell is blank nobody looked.",
        "Head the column of what is compared by its name if they are something else",
    ),
    "several_looks": (
        "{rows:row|rows} of several looks at {pieces:cutting|cuttings}: each counts once, as it was last seen.",
        "Leave --day out if each row is a cutting of its own",
    ),
    "several_looks/counts": (
        "{rows:row|rows} of several looks at {trays:tray or pot|trays or pots}: each counts once, as it was last counted.",
        "Leave --day out if each row counts cuttings of its own",
    ),
    "several_looks/uncounted": (
        "{n:cutting was|cuttings were} not counted at the last check, and {n:~is|are} unknown there.",
        "Add the count if there was one",
    ),
    "several_looks/unseen": (
        "{n:cutting|cuttings} without roots {n:~was|were} not seen at the last check, and {n:~is|are} unknown there.",
        "Add {n:~its row|their rows} if {n:~it was|they were} looked at",
    ),
    "unused_grouping": (
        "{column} is not used, and within each {column} the outcomes never differ: cuttings that share one may be one unit.",
        "Name it with --{flag}, or take it out if it is none",
    ),
    "unused_grouping/named": (
        "{column} is named like a group of the layout and is not used.",
        "Name it with --{flag} if the cuttings were laid out so",
    ),
    "numbered_anew": (
        "{column} counts from 1 anew in each of {names}, as in a tray or plot of its own; here each cutting counts by itself. --unit {names}: those of one such tray were given their arm together.",
        "Say which it is",
    ),
    "cuttings_across": (
        "Columns {columns} are taken for the cuttings of a row; a blank cell is none.",
        "Write a row for each cutting if they are something else",
    ),
    "cuttings_across/listed": (
        "Each number in a cell of {column} is taken for a cutting.",
        "Write a row for each cutting if they are something else",
    ),
    "row_a_unit": (
        "Each row is taken for one unit, such as a tray. Is it? --single: each piece was drawn to its arm by itself; --unit COLUMN: rows share a unit.",
        "Say which it is",
    ),
    "levels_across": (
        "Columns {columns} are read as a row for each of {levels} ({factor}).",
        "Write {factor} in a column of its own if they are something else",
    ),
    "merged": (
        "Blank cells of {column} are read as the value above them, as merged cells are saved.",
        "Write it out in each row, so that nothing is left to read into it",
    ),
    "pairs_of_units": (
        "A row of each {column} holds several cuttings, so each is read as a block of two units, not as a pair of cuttings.",
        "Name it with --block",
    ),
    "lone_partner": (
        "{n:pair has|pairs have} one cutting only ({names}): {n:~it is|they are} set aside.",
        "Stick both cuttings of a pair",
    ),
    "state_against_rooted": (
        "{n:cutting has|cuttings have} an outcome that the state rules out{lines}, such as {did} and {state}; counted as unknown.",
        "Say which of the two is right",
    ),
}

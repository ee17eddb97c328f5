"""What is known to be dangerous or restricted by genus, shipped with its source; a lab puts its own note in place of one.

A note never replaces the label, local rules or licensed advice, and a genus without a note is not thereby safe.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.stock.listed import Listed
from orderly_bench.core.typed import Asked, text, ticked

#: What can be set of a genus, in words.
FLAGS = {
    "irritant": N_("irritates skin or eyes"), "toxic_people": N_("poisonous to people"), "toxic_animals": N_("poisonous to animals"),
    "invasive": N_("spreads where it must not"), "protected": N_("protected"), "quarantine": N_("under plant health rules"),
}  # fmt: skip
LONGEST_GENUS, LONGEST_NOTE, LONGEST_SOURCE = 40, 300, 200


@dataclass(frozen=True)
class GenusNote:
    """One genus.

    Attributes
    ----------
    irritant, toxic_people, toxic_animals, invasive, protected, quarantine : bool
    note : str
        What to mind, in a few words.
    source : str
        Who says so.
    """

    genus: str
    irritant: bool = False
    toxic_people: bool = False
    toxic_animals: bool = False
    invasive: bool = False
    protected: bool = False
    quarantine: bool = False
    note: str = ""
    source: str = ""

    @property
    def flags(self) -> list[str]:
        """Names of what is set, in order."""
        return [flag for flag in FLAGS if getattr(self, flag)]

    @property
    def words(self) -> str:
        """What the margin says: each thing that is set, the note, and the source."""
        said = ", ".join(_(FLAGS[flag]) for flag in self.flags)
        note = f" {_(self.note).rstrip('.')}." if self.note else ""
        return f"{self.genus}: {said}.{note}"


POISONS = "Wagstaff 2008, International Poisonous Plants Checklist"
XYLELLA = "Commission Implementing Regulation (EU) 2020/1201"
INVASIVE = "EPPO lists of invasive alien plants"
#: Shipped; facts of the sources named, in our own words.
SHIPPED = (
    GenusNote("Berberis", irritant=True, invasive=True, note="Spines; B. thunbergii spreads in many countries", source=INVASIVE),
    GenusNote("Buddleja", invasive=True, note="B. davidii spreads in many countries", source=INVASIVE),
    GenusNote("Buxus", toxic_people=True, toxic_animals=True, note="Leaves hold alkaloids; look for box blight and box moth", source=POISONS),
    GenusNote("Cotoneaster", invasive=True, note="Several species spread", source=INVASIVE),
    GenusNote("Cytisus", toxic_people=True, toxic_animals=True, invasive=True, source=f"{POISONS}; {INVASIVE}"),
    GenusNote("Daphne", irritant=True, toxic_people=True, toxic_animals=True, note="Sap blisters the skin; every part is poisonous: gloves", source=POISONS),
    GenusNote("Euphorbia", irritant=True, toxic_people=True, toxic_animals=True, note="Milky sap harms skin and eyes", source=POISONS),
    GenusNote("Kalmia", toxic_people=True, toxic_animals=True, source=POISONS),
    GenusNote("Lavandula", quarantine=True, note="Host of Xylella fastidiosa: movement may need a plant passport", source=XYLELLA),
    GenusNote("Ligustrum", toxic_people=True, toxic_animals=True, invasive=True, source=f"{POISONS}; {INVASIVE}"),
    GenusNote("Melaleuca", toxic_animals=True, invasive=True, note="The oil is poisonous if swallowed; M. quinquenervia spreads in warm wetlands", source=f"{POISONS}; {INVASIVE}"),
    GenusNote("Nerium", irritant=True, toxic_people=True, toxic_animals=True, quarantine=True, note="Every part is poisonous; never burn it; host of Xylella fastidiosa", source=f"{POISONS}; {XYLELLA}"),
    GenusNote("Olea", quarantine=True, note="Host of Xylella fastidiosa: movement may need a plant passport", source=XYLELLA),
    GenusNote("Pieris", toxic_people=True, toxic_animals=True, source=POISONS),
    GenusNote("Polygala", quarantine=True, note="P. myrtifolia is a host of Xylella fastidiosa", source=XYLELLA),
    GenusNote("Prunus", toxic_people=True, toxic_animals=True, note="Leaves and stones of many give off cyanide", source=POISONS),
    GenusNote("Rhododendron", toxic_people=True, toxic_animals=True, invasive=True, note="R. ponticum spreads", source=f"{POISONS}; {INVASIVE}"),
    GenusNote("Ruta", irritant=True, note="Sap burns the skin in sun", source=POISONS),
    GenusNote("Ulex", irritant=True, invasive=True, note="Spines", source=INVASIVE),
)  # fmt: skip


def genus_of(taxon: str) -> str:
    """The genus of a botanical name: its first word, a hybrid sign left out."""
    words = [word for word in taxon.split() if word not in ("x", "×")]
    return words[0].capitalize() if words else ""


def check_note(note: GenusNote) -> GenusNote:
    """A note as it may be kept.

    Raises
    ------
    InvalidInput
        No genus, nothing set and nothing said, no source, or something too long.
    """
    genus = note.genus.strip().capitalize()
    if not genus.isalpha() or len(genus) > LONGEST_GENUS:
        raise InvalidInput("genus", _("type the one word of the genus, such as Daphne"), note.genus[:60])
    if len(note.note) > LONGEST_NOTE or not 0 < len(note.source.strip()) <= LONGEST_SOURCE:
        raise InvalidInput(
            "source",
            _(
                "say who says so, within {longest} characters, and keep the note within {longest_note}",
                longest=LONGEST_SOURCE,
                longest_note=LONGEST_NOTE,
            ),
        )
    return replace(note, genus=genus, note=note.note.strip(), source=note.source.strip())


GENERA = Listed(
    "genera",
    (
        Asked("genus", N_("Genus"), text(LONGEST_GENUS)),
        *(Asked(flag, words, ticked()) for flag, words in FLAGS.items()),
        Asked("note", N_("What to mind"), text(LONGEST_NOTE)), Asked("source", N_("Who says so"), text(LONGEST_SOURCE)),
    ),
    ("genus",), GenusNote, check_note,
)  # fmt: skip

"""Leads that a technician lays, as resistances."""

#: Resistance of a jumper lead in ohms.
JUMPER_OHMS = 0.05
#: What a signal wire is fed through, in ohms: the least that the case format allows, so that nothing can be harmed.
FED_THROUGH_OHMS = 10e3

"""The demo club's athletes: all invented. True maxima drive the simulated logs and are stored nowhere."""

from dataclasses import dataclass


@dataclass(frozen=True)
class DemoPerson:
    name: str
    born: str
    mass_kg: str
    position: str
    squat_kg: float  # true maximum at the start of the season
    hinge_kg: float
    gain_a_week: float = 0.004  # share of the maximum
    newcomer: bool = False
    consent: bool = False
    joined_week: int = 0  # weeks into the season; 99 has not trained yet
    away: tuple[int, int] = (99, 99)  # weeks of the season without training
    tired: tuple[int, int] = (99, 99)  # weeks in which little goes well
    story: str = ""


PEOPLE = (
    DemoPerson("Marit Holm", "1997-03-14", "78.5", "pivot", 118, 132, 0.0045),
    DemoPerson("Ines Okafor", "1999-11-02", "74", "left back", 108, 118, 0.004),
    DemoPerson("Tove Lindqvist", "2000-06-21", "71.5", "right back", 104, 116, 0.0055),
    DemoPerson("Sanne de Wit", "1998-01-30", "72", "centre back", 101, 108, 0.0005),
    DemoPerson("Petra Skov", "1996-08-09", "69", "left wing", 92, 104, 0.004),
    DemoPerson("Rania Haddad", "2001-04-17", "67.5", "right wing", 88, 96, 0.005),
    DemoPerson("Elsbeth Oyelaran", "1995-12-05", "76", "goalkeeper", 84, 98, 0.002),
    DemoPerson("Noor Visser", "2002-02-11", "70", "left back", 90, 98, joined_week=99, story="new signing"),
    DemoPerson("Ayla Demirel", "2003-09-25", "64", "centre back", 78, 86, 0.006),
    DemoPerson("Jorunn Petit", "2000-10-08", "66.5", "pivot", 82, 92, 0.003, away=(12, 19)),
    DemoPerson("Mirre Castellan", "2004-05-19", "62", "right wing", 73, 80, 0.006),
    DemoPerson("Oona Lachlan", "2002-12-30", "63.5", "left wing", 70, 82, 0.0, tired=(12, 13)),
    DemoPerson("Beatriz Solheim", "1999-07-04", "68", "right back", 86, 95, 0.004, story="stopped"),
    DemoPerson("Kaja Brandt", "2005-03-03", "61", "centre back", 62, 70, 0.007, newcomer=True, joined_week=4),
    DemoPerson("Wren Achterberg", "2005-10-16", "65", "pivot", 66, 78, 0.006, newcomer=True),
    DemoPerson("Suri Valdez", "2009-01-22", "58", "left wing", 56, 62, 0.008, newcomer=True, consent=True),
    DemoPerson(
        "Liv Aasen",
        "2008-08-13",
        "59.5",
        "right wing",
        40,
        50,
        newcomer=True,
        consent=True,
        joined_week=17,
        story="on the road",
    ),
    DemoPerson(
        "Hanne Roos", "2007-05-06", "63", "left back", 52, 60, newcomer=True, joined_week=14, story="just through"
    ),
    DemoPerson("Fenna Moreau", "2006-02-27", "55", "left wing", 25, 30, 0.004, newcomer=True, joined_week=16),
    DemoPerson(
        "Alma Brekke", "2010-02-18", "56", "right wing", 30, 36, newcomer=True, joined_week=18, story="no consent"
    ),
)

"""Morrow Sound Ferries, a made-up operator of island ferries: its people, roles and applications.

Everything is generated from one seed, so that two runs give the same organisation.
"""

from __future__ import annotations

import random
import unicodedata
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from pathlib import Path
from typing import Any

import yaml

from yugum_standins.directory import group_entry, person_entry

ZONE = "Europe/London"
MAIL_DOMAIN = "morrowsound.example"
CREW = "crew-rosters"
REPORTING = "reporting-database"
PLANNER = "Rosters planner"
REPORTER = "Reporting user"
DIRECTORY = "staff-directory"
MAIL = "mail-and-calendar"
MAINTENANCE = "vessel-maintenance"
TICKETS = "ticket-sales"
INCIDENTS = "incident-log"
SHIP_MAIL = "ship-mail"
SHIP_MAIL_TITLES = ("Second engineer", "Head of Engine Room")
RADIO = "radio-licences"
MAPS = "harbour-maps"
EXCHANGE = "berth-exchange"
BERTH_PLANNER = "Berth planner"
SPARE = 400
"""Seats an application itself has beyond those held; Yugum's pools may be told of fewer."""
MAILBOX = "Mailbox"
ORGANISATION = "Morrow Sound Ferries"
TICKET_DOMAIN = "ferries.morrowsound.example"
STAFF = "Staff"

GIVEN = [
    "Ada",
    "Alma",
    "Anselm",
    "Arne",
    "Astrid",
    "Bea",
    "Birk",
    "Bo",
    "Britta",
    "Carl",
    "Clara",
    "Dag",
    "Dagny",
    "Edda",
    "Einar",
    "Elin",
    "Elsa",
    "Emil",
    "Erik",
    "Esther",
    "Ewan",
    "Fay",
    "Finn",
    "Flora",
    "Frida",
    "Georg",
    "Gerda",
    "Greta",
    "Gustav",
    "Hanna",
    "Harald",
    "Hedda",
    "Helga",
    "Henrik",
    "Ida",
    "Ingrid",
    "Isla",
    "Ivar",
    "Jon",
    "Jonna",
    "Juni",
    "Kaj",
    "Karin",
    "Klara",
    "Knut",
    "Lars",
    "Lena",
    "Linn",
    "Liv",
    "Lotta",
    "Lukas",
    "Magnus",
    "Maj",
    "Malin",
    "Mara",
    "Marit",
    "Mats",
    "Mikael",
    "Mina",
    "Nils",
    "Noor",
    "Nora",
    "Odd",
    "Olav",
    "Oona",
    "Oskar",
    "Otto",
    "Pia",
    "Ragna",
    "Rasmus",
    "Runa",
    "Rut",
    "Saga",
    "Selma",
    "Signe",
    "Sigrid",
    "Siv",
    "Solveig",
    "Stellan",
    "Sune",
    "Svea",
    "Teodor",
    "Thea",
    "Tilda",
    "Tora",
    "Torben",
    "Tova",
    "Tuva",
    "Ulla",
    "Ulf",
    "Una",
    "Vera",
    "Vidar",
    "Viggo",
    "Vilma",
    "Yrsa",
    "Yusuf",
]
FAMILY = [
    "Ashe",
    "Aster",
    "Bakke",
    "Berg",
    "Bjelke",
    "Blom",
    "Brandt",
    "Brekke",
    "Brook",
    "Carr",
    "Dahl",
    "Dunn",
    "Eklund",
    "Elwood",
    "Evans",
    "Falk",
    "Finch",
    "Fjord",
    "Frost",
    "Garth",
    "Glad",
    "Grane",
    "Grove",
    "Hale",
    "Halse",
    "Hammer",
    "Hart",
    "Haug",
    "Heath",
    "Hjelm",
    "Holm",
    "Holt",
    "Iver",
    "Juul",
    "Kell",
    "Kinn",
    "Krog",
    "Lake",
    "Lind",
    "Lund",
    "Lunde",
    "Marsh",
    "Moen",
    "Moor",
    "Myhre",
    "Ness",
    "Nord",
    "Oake",
    "Olsen",
    "Orr",
    "Pike",
    "Quill",
    "Quist",
    "Reed",
    "Reef",
    "Ring",
    "Rook",
    "Ross",
    "Sand",
    "Sarre",
    "Skaar",
    "Skov",
    "Sund",
    "Teal",
    "Thorne",
    "Tide",
    "Tveit",
    "Varga",
    "Vance",
    "Vik",
    "Vinter",
    "Wade",
    "Wells",
    "Wick",
    "Winge",
    "Wray",
]
DEPARTMENTS = {
    "Deck": (70, ("Deckhand", "Deck officer", "Bosun", "Seasonal deckhand")),
    "Engine Room": (36, ("Engineer", "Second engineer", "Oiler")),
    "Harbour Operations": (34, ("Harbour hand", "Berth planner", "Mooring lead")),
    "Ticketing": (40, ("Ticket clerk", "Ticket lead")),
    "Timetables": (18, ("Timetable planner", "Timetable analyst")),
    "Safety": (16, ("Safety officer", "Drill coordinator")),
    "Finance": (18, ("Accountant", "Payroll clerk", "Controller")),
}
SITES = ("Oxhaven", "Little Skarra", "Brae Point")

RULES = (Path(__file__).parent / "rules.yaml").read_text()
ROLES: dict[str, dict[str, Any]] = yaml.safe_load(RULES)["roles"]
GROUPS = [
    "Deck crew",
    "Engine crew",
    "Harbour crew",
    "Timetable planners",
    "Safety observers",
    "Rosters",
    "Night duty",
]
REPORT_GROUPS = [
    "deck_reports",
    "ticket_reports",
    "timetable_reports",
    "safety_reports",
    "finance_reports",
    "report_writers",
    "archive_readers",
]


@dataclass(slots=True)
class Employee:
    """One generated person and what they hold in the applications at the beginning."""

    user_name: str
    given_name: str
    family_name: str
    employee_number: str
    department: str
    title: str
    site: str
    user_type: str = "employee"
    manager: str = ""
    contract_ends: str = ""
    groups: list[str] = field(default_factory=list)
    report_groups: list[str] = field(default_factory=list)
    seat: bool = False
    rosters: list[str] = field(default_factory=list)
    tables: list[tuple[str, str, str]] = field(default_factory=list)

    @property
    def display_name(self) -> str:
        return f"{self.given_name} {self.family_name}"

    @property
    def mail(self) -> str:
        domain = TICKET_DOMAIN if self.department == "Ticketing" else MAIL_DOMAIN
        return f"{self.user_name}@{domain}"

    @property
    def phone(self) -> str:
        """A number at the desk; on board nobody has one."""
        on_board = self.department in ("Deck", "Engine Room")
        return "" if on_board else f"+00 555 {int(self.employee_number) % 10_000:04}"

    @property
    def cost_center(self) -> str:
        return f"{100 + 10 * list(DEPARTMENTS).index(self.department)}"

    @property
    def account_id(self) -> str:
        """The id of the account in simulated applications."""
        return str(uuid.uuid5(uuid.NAMESPACE_DNS, f"{self.user_name}.{MAIL_DOMAIN}"))

    def as_user(self, ids: Mapping[str, str], levels: Sequence[str]) -> dict[str, Any]:
        """Who they are, as a simulated application has it; ``ids`` are the accounts' by login."""
        more: dict[str, Any] = {
            "name": {"givenName": self.given_name, "familyName": self.family_name},
            "title": self.title,
            "userType": self.user_type,
            "timezone": ZONE,
            "addresses": [{"type": "work", "locality": self.site}],
            "costCenter": self.cost_center,
            "organization": ORGANISATION,
            "department": self.department,
        }
        if levels:
            more["roles"] = [{"value": levels[self.title == "Ticket lead"], "primary": True}]
        if self.phone:
            more["phoneNumbers"] = [{"type": "work", "value": self.phone}]
        if self.manager in ids:
            more["manager"] = {"value": ids[self.manager]}
        serves = {"settings": {"quays": self.site}} if levels else {}
        return {"id": self.account_id, "mail": self.mail, "more": more, **serves}

    def document(self) -> dict[str, str]:
        """The fields of a new person."""
        names = (
            "user_name",
            "given_name",
            "family_name",
            "employee_number",
            "department",
            "title",
            "site",
            "user_type",
            "contract_ends",
            "mail",
            "phone",
            "cost_center",
        )
        said = {n: getattr(self, n) for n in names}
        return said | {"time_zone": ZONE, "organization": ORGANISATION}


def login(given: str, family: str, taken: set[str]) -> str:
    """First letter and family name, with a number when it is taken."""
    plain = unicodedata.normalize("NFKD", f"{given[0]}{family}".lower())
    base = "".join(c for c in plain if c.isascii() and c.isalnum())
    name, number = base, 2
    while name in taken:
        name, number = f"{base}{number}", number + 1
    taken.add(name)
    return name


def employees() -> list[Employee]:
    """About 240 people, department heads first, each head the manager of the department."""
    rng = random.Random(7)
    taken: set[str] = set()
    people: list[Employee] = []
    names = [(g, f) for g in GIVEN for f in FAMILY]
    rng.shuffle(names)
    number = 40100

    def add(department: str, title: str, manager: str) -> Employee:
        nonlocal number
        given, family = names.pop()
        number += rng.randint(1, 3)
        person = Employee(
            login(given, family, taken),
            given,
            family,
            str(number),
            department,
            title,
            rng.choice(SITES),
            manager=manager,
        )
        people.append(person)
        return person

    head = add("Harbour Operations", "Managing director", "")
    for department, (count, titles) in DEPARTMENTS.items():
        lead = add(department, f"Head of {department}", head.user_name)
        for index in range(count - 1):
            person = add(department, titles[index % len(titles)], lead.user_name)
            if person.title.startswith("Seasonal"):
                person.user_type = "seasonal"
                person.contract_ends = "2031-03-31" if index % 8 else "2031-03-07"
    for person in people:
        _equip(person, rng)
    return people


def _equip(person: Employee, rng: random.Random) -> None:
    """What somebody holds at the beginning: what the roles say, and now and then more."""
    for role in ROLES.values():
        if f'"{person.department}"' not in role["when"]:
            continue
        for gives in role["gives"]:
            if gives["application"] == CREW:
                person.groups += gives["entitlements"]
                person.seat = bool(gives.get("seats"))
            elif gives["application"] == REPORTING:
                person.report_groups += gives["entitlements"]
    if person.groups and rng.random() < 0.12:
        person.groups.append("Night duty")
    if person.seat:
        season = rng.choice(("Spring", "Summer", "Autumn", "Winter"))
        person.rosters = [
            f"{season} roster {person.site} {n + 1}" for n in range(rng.randint(0, 3))
        ]
    if "report_writers" in person.report_groups:
        base = person.user_name
        database = "timetables" if person.department == "Timetables" else "finance"
        for n in range(rng.randint(1, 3)):
            person.tables.append((database, "table", f"{base}_figures_{n + 1}"))
        person.tables.append((database, "view", f"{base}_summary"))


def crew_seed(people: list[Employee], bought: int) -> dict[str, Any]:
    """What the crew-roster stand-in begins with."""
    rng = random.Random(11)
    users: list[dict[str, Any]] = [
        {
            "userName": p.user_name,
            "displayName": p.display_name,
            "employeeNumber": p.employee_number,
            "groups": p.groups,
            "seats": [PLANNER] if p.seat else [],
            "sessions": rng.choice((0, 0, 1, 2)),
            "apiKeys": 1 if rng.random() < 0.08 else 0,
            "items": [("roster", name) for name in p.rosters],
        }
        for p in people
        if p.groups
    ]
    for user in users[20:25]:  # nobody has used these for months
        user["lastUsed"] = "2030-09-14T06:00:00+00:00"
    users.append(
        {
            "userName": "quay-desk",
            "displayName": "Quay desk",
            "kind": "shared",
            "groups": ["Rosters"],
        }
    )
    users.append(
        {
            "userName": "svc-display",
            "displayName": "Departure boards",
            "kind": "service",
            "groups": ["Rosters"],
            "apiKeys": 1,
        }
    )
    head = next(p.user_name for p in people if p.title == "Head of Timetables" and p.groups)
    owners = dict.fromkeys(GROUPS, head)
    return {
        "licenses": {PLANNER: bought},
        "groups": GROUPS,
        "owners": owners,
        "users": users,
        "settings": crew_settings([p for p in people if p.groups]),
    }


def crew_settings(people: list[Employee]) -> list[dict[str, Any]]:
    """Where people are named in the crew rosters: recipients of alerts, duty schedules, escalations."""
    some = iter(people[30::7])
    found: list[dict[str, Any]] = []
    for site in ("Oxhaven", "Little Skarra", "Brae Point"):
        one, two, three, four = (next(some) for _ in range(4))
        found += [
            {
                "kind": "alert",
                "place": f"{site} › night watch › crew short",
                "text": f"{one.mail}, bridge@morrowsound.example, {two.mail}",
                "effect": "who is short of crew at night is told to nobody",
            },
            {
                "kind": "schedule",
                "place": f"{site} › roster of the week › sent to",
                "text": f"{three.mail}",
                "effect": "the roster of the week reaches nobody",
            },
            {
                "kind": "escalation",
                "place": f"{site} › sick calls › after 20 minutes",
                "text": f"{one.user_name}; {four.user_name}",
                "effect": "sick calls end with nobody",
            },
            {
                "kind": "sign",
                "place": f"{site} › notice board › contact",
                "text": f"Questions: {three.display_name}, {three.mail}.",
                "effect": "the notice board names somebody who is gone",
                "writable": False,
            },
            {
                "kind": "key",
                "place": f"{site} › tide import › runs with the key of",
                "text": two.user_name,
                "effect": "the tides of the night are not read",
                "contact": "tides@morrowsound.example",
                "secret": f"tides-of-{site.lower().replace(' ', '-')}-since-2027",
            },
        ]
    return found


def ship_mailboxes(people: list[Employee]) -> list[tuple[str, str]]:
    """Login and name of everybody who has a mailbox on the ships' own mail store."""
    return [(p.user_name, p.display_name) for p in people if p.title in SHIP_MAIL_TITLES]


def reporting_sql(people: list[Employee]) -> dict[str, list[str]]:
    """Statements by database ("" is the cluster) that make the reporting database's beginning."""
    cluster = [f'CREATE ROLE "{g}"' for g in REPORT_GROUPS]
    databases: dict[str, list[str]] = {"timetables": [], "finance": []}
    for name in databases:
        for group in REPORT_GROUPS:
            databases[name].append(f'GRANT USAGE, CREATE ON SCHEMA public TO "{group}"')
    for person in people:
        if not person.report_groups:
            continue
        role = f'"{person.user_name}"'
        cluster.append(f"CREATE ROLE {role} LOGIN")
        said = f"{person.display_name}, {person.title}, {person.site}"
        cluster.append(f"COMMENT ON ROLE {role} IS '{said}'")
        cluster += [f'GRANT "{g}" TO {role}' for g in person.report_groups]
        for database, kind, name in person.tables:
            if kind == "table":
                made = f'CREATE TABLE public."{name}" (day date, passengers int)'
            else:
                made = f'CREATE VIEW public."{name}" AS SELECT 1 AS line'
            databases[database] += [made, f'ALTER {kind.upper()} public."{name}" OWNER TO {role}']
    cluster.append('CREATE ROLE "svc_loader" LOGIN')
    return {"": cluster, **databases}


@dataclass(frozen=True, slots=True)
class Simulated:
    """One simulated SCIM application of the organisation: its traits, rules and beginning.

    ``departments`` None means everybody has an account there.
    """

    id: str
    name: str
    contact: str
    traits: dict[str, Any]
    profile: dict[str, Any]
    groups: dict[str, tuple[str, ...] | None]
    license: str = ""
    price: Decimal | None = None


OTHERS = (
    Simulated(
        MAIL,
        "Mail and calendar",
        "Runa Frost, +00 555 0119",
        {
            "window_days": 30,
            "seats_stay": True,
            "archive": True,
            "settings": ["hidden", "quota", "forward", "reply", "alias"],
            "limits": {"title": 40, "displayName": 60},
        },
        {
            "window_days": 30,
            "close_after_days": 30,
            "seat_at_deletion": "kept",
            "seat_at_restore": "returned",
            "leaver_settings": {"hidden": "yes", "forward": "{successor_mail}"},
            "standard_settings": {"hidden": "", "forward": ""},
            "leaver_setting_days": {"forward": 21},
            "leaver_ground": "works agreement 12, business mail only",
        },
        {"All hands": None},
        MAILBOX,
        Decimal("4.50"),
    ),
    Simulated(
        MAINTENANCE,
        "Vessel maintenance plans",
        "Stellan Moor, +00 555 0163",
        {
            "window_days": 14,
            "seats_return": True,
            "cursors": True,
            "devices": True,
            "renames": False,
        },
        {"window_days": 14, "close_after_days": 14, "seat_at_restore": "returned"},
        {"Work orders": ("Engine Room",)},
        "Planner",
        Decimal("32.00"),
    ),
    Simulated(
        TICKETS,
        "Ticket sales",
        "Tilda Wray, +00 555 0128",
        {
            "window_days": 0,
            "levels": ["counter", "supervisor", "head office"],
            "settings": ["quays"],
        },
        {"deletion": "final", "window_days": 0, "close_after_days": 30},
        {"Counter": ("Ticketing",)},
        "Seller",
        Decimal("9.00"),
    ),
    Simulated(
        EXCHANGE,
        "Berth exchange",
        "Wilma Thorn, +00 555 0186",
        {
            "window_days": 30,
            "invites": True,
            "duties": ["mail", "second_factor", "profile", "terms"],
        },
        {
            "window_days": 30,
            "close_after_days": 14,
            "duties": ["second_factor", "terms"],
            "invitation_remind_days": [3, 7],
            "invitation_days": 14,
        },
        {"Berth planners": ()},
        "Berth seat",
        Decimal("21.00"),
    ),
    Simulated(
        INCIDENTS,
        "Incident log",
        "Solveig Hale, +00 555 0151",
        {"extended": False, "patch": False, "filters": False},
        {"deletion": "park", "window_days": 30, "close_after_days": 30},
        {"Investigators": ("Safety",)},
    ),
)


def members(simulated: Simulated, people: list[Employee]) -> list[tuple[Employee, list[str]]]:
    """Who has an account in a simulated application at the beginning, and in which groups."""
    found = []
    for person in people:
        groups = [
            name
            for name, departments in simulated.groups.items()
            if departments is None or person.department in departments
        ]
        if groups:
            found.append((person, groups))
    return found


def simulated_seed(simulated: Simulated, people: list[Employee]) -> dict[str, Any]:
    """What a simulated application begins with."""
    rng = random.Random(simulated.id)
    found = members(simulated, people)
    ids = {person.user_name: person.account_id for person, _ in found}
    levels = simulated.traits.get("levels", ())
    users = [
        {
            **person.as_user(ids, levels),
            "userName": person.user_name,
            "displayName": person.display_name,
            "employeeNumber": person.employee_number,
            "groups": groups,
            "seats": [simulated.license] if simulated.license else [],
            "sessions": rng.choice((0, 0, 1)) if simulated.traits.get("extended", True) else 0,
            "devices": index % 3 if simulated.traits.get("devices") else 0,
        }
        for index, (person, groups) in enumerate(found)
    ]
    bought = {simulated.license: len(users) + SPARE} if simulated.license else {}
    owners = {}
    if simulated.traits.get("extended", True):
        first = next((p.user_name for p, _ in found if p.title.startswith("Head of")), "")
        first = first or next((p.user_name for p, _ in found), "")
        owners = dict.fromkeys(simulated.groups, first) if first else {}
    return {
        "licenses": bought,
        "groups": list(simulated.groups),
        "owners": owners,
        "users": users,
    }


def radio_csv(people: list[Employee]) -> str:
    """The radio-licence register as its keeper writes it down."""
    lines = ["login,name,number,state,groups"]
    for person in people:
        if person.title in ("Bosun", "Deck officer", "Mooring lead"):
            name = person.display_name
            lines.append(f"{person.user_name},{name},{person.employee_number},active,VHF operator")
    lines.append("oldquay,Somebody unknown,,active,VHF operator")
    known = next(p for p in people if p.department == "Safety")
    lines.append(f"vhf-7,{known.display_name},,active,VHF operator")
    return "\n".join(lines) + "\n"


def directory_entries(people: list[Employee]) -> list[Any]:
    """The staff directory's entries: everybody, the groups, and one group of groups."""
    entries = [
        person_entry(
            p.user_name,
            p.given_name,
            p.family_name,
            p.employee_number,
            manager=p.manager,
            more={
                "displayName": p.display_name,
                "mail": p.mail,
                "title": p.title,
                "employeeType": p.user_type,
                "departmentNumber": p.department,
                "l": p.site,
                "o": ORGANISATION,
                "telephoneNumber": p.phone,
            },
        )
        for p in people
    ]
    staff = [p.user_name for p in people]
    owner = next(p.user_name for p in people if p.title.startswith("Head of"))
    entries.append(group_entry(STAFF, staff, owner))
    entries.append(group_entry("Harbour radio", [staff[0]], owner, [people[30].user_name]))
    both = [f"group:{STAFF}", "group:Harbour radio"]
    entries.append(group_entry("All of Morrow Sound", both, owner))
    return entries

"""Does the service do what its description says? Every operation, with valid and invalid data.

``python -m tests.proofs.described [--examples N]`` prints what was found, one line a demand.
"""

from __future__ import annotations

import argparse
import base64
import json
import os
import shutil
import subprocess
import sys
from collections import Counter
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import httpx

from tests.conftest import FAST, scratch
from yugum.client import Client
from yugum.wire import applications as wap
from yugum_standins.load import connect, loaded, raise_stage
from yugum_standins.look import CrewLook
from yugum_standins.morrow import CREW
from yugum_standins.stage import Stage

ROOT = Path(__file__).parents[2]
EXCEPTIONS = {
    "plans.make": "what a plan needs follows from its verb, and from who it is for",
    "people.create": "no two of a list may have one login",
    "applications.connect": "what a connector needs is its own",
    "applications.disconnect": "what is erased for good is typed",
    "decisions.make": "what a decision is about follows from its kind",
}
"""Operations whose valid data may be answered with 422, and why no schema says when."""
NOT_TRIED = {"dockets.events"}
"""A stream has no end; see tests/acceptance/test_streams.py."""
IN_SESSION = (
    *("integrations.add", "integrations.change", "integrations.end"),
    *("session.show", "session.sign-out", "session.sign-out-others", "session.set-password"),
    *("tokens.add", "tokens.revoke"),
)
"""Tried in sessions of their own, whose cookie the tool takes for one it made up; that they need one is
in docs/reference/rights.md, and tests/acceptance/test_matrix.py."""
DEMANDS = {
    "not_a_server_error": "no server error",
    "status_code_conformance": "no undocumented status",
    "negative_data_rejection": "no invalid data accepted",
    "positive_data_acceptance": f"no valid data refused, but for {len(EXCEPTIONS)} operations",
}
STATES = ["2xx", "401", "403", "404", "409", "412", "429"]
"""412 as 409: what it was made from has changed meanwhile."""


def config() -> str:
    expected = "checks.positive_data_acceptance.expected-statuses"
    lines = [f"{expected} = {STATES}"]
    for name in EXCEPTIONS:
        lines += ["[[operations]]", f'include-operation-id = "{name}"']
        lines += [f"{expected} = {[*STATES, '422']}"]
    return "\n".join(lines)


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--examples", type=int, default=50)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", default="", help="A pattern of operations.")
    said = parser.parse_args()
    folder = scratch()
    stage, _ = raise_stage(folder, port=0, settings=FAST)
    try:
        token = json.loads((folder / "client.json").read_text())["token"]
        with Client(stage.url, token) as client:
            connect(client, stage, lambda _: None)
            _scrap(client, stage)
        where = folder / "described.json"
        where.write_text(json.dumps({"url": stage.url, "token": token, "folder": str(folder)}))
        report = _try(stage.url, token, folder, said)
        description = httpx.get(f"{stage.url}/api/v1/openapi.json").json()
        return _tell(report, description, said.only)
    finally:
        stage.stop()
        shutil.rmtree(folder, ignore_errors=True)


def _scrap(client: Client, stage: Stage) -> None:
    """An application whose records cannot be understood."""
    users = [{"userName": f"odd{n}", "lastUsed": "long ago"} for n in range(9)]
    made = stage.standin("scrap", {"users": users}, keep=False)
    url = f"{made['url']}/scim/v2"
    client.applications.connect(
        wap.ConnectApplication(id="scrap", name="Scrap", kind="scim", url=url, secret=made["token"])
    )
    client.applications.read("scrap")
    organisation = loaded(stage)
    crew = CrewLook(organisation.crew["url"], organisation.crew["headers"])
    for account in [a for a in client.accounts.page(application=CREW).items if a.person_id][:8]:
        crew.join(account.login, "Night duty")  # changed outside
    client.applications.read(CREW)


def _try(url: str, token: str, folder: Path, said: argparse.Namespace) -> list[dict[str, Any]]:
    settings = folder / "schemathesis.toml"
    settings.write_text(config())
    report = folder / "described.ndjson"
    command = [
        *(
            str(Path(sys.executable).parent / "schemathesis"),
            "--config-file",
            str(settings),
            "run",
            f"{url}/api/v1/openapi.json",
        ),
        *("--checks", "all", "--max-examples", str(said.examples), "--seed", str(said.seed)),
        *("--header", f"Authorization: Bearer {token}", "--continue-on-failure", "--no-shrink"),
        *("--phases", "coverage,fuzzing,stateful", "--suppress-health-check", "all"),
        *("--report", "ndjson", "--report-ndjson-path", str(report), "--no-color"),
        *(word for name in sorted(NOT_TRIED) for word in ("--exclude-operation-id", name)),
        *("--request-timeout", "60", "--max-response-time", "60", "--max-redirects", "0"),
        *(("--include-operation-id-regex", said.only) if said.only else ()),
    ]
    env = {
        **os.environ,
        "SCHEMATHESIS_HOOKS": "tests.proofs.shapes",
        "YUGUM_DESCRIBED": str(folder / "described.json"),
        "PYTHONPATH": f"{ROOT}:{ROOT / 'src'}",
    }
    done = subprocess.run(command, env=env, cwd=ROOT, text=True, capture_output=True, check=False)
    print("\n".join(line[:300] for line in done.stdout.splitlines()), done.stderr[-3000:], sep="\n")
    return [json.loads(line) for line in report.read_text().splitlines()]


def _tell(report: list[dict[str, Any]], description: dict[str, Any], only: str) -> int:
    """One line a demand; 0 when all are met."""
    names = {
        f"{method.upper()} {path}": str(operation["operationId"])
        for path, methods in description["paths"].items()
        for method, operation in methods.items()
    }
    accepted: set[str] = set()
    calls: Counter[str] = Counter()
    faults: dict[str, list[str]] = {}
    for event in report:
        if error := event.get("NonFatalError"):
            faults.setdefault("error", []).append(f"{error['label']}: {error['value']['message']}")
        scenario = event.get("ScenarioFinished")
        if scenario is None:
            continue
        recorder = scenario["recorder"]
        for case_id, exchange in recorder.get("interactions", {}).items():
            case, reply = recorder["cases"][case_id]["value"], exchange["response"]
            calls[scenario["phase"]] += 1
            label = f"{case['method']} {case['path']}"
            if reply is not None and 200 <= reply["status_code"] < 300:
                accepted.add(names.get(label, label))
            for check in recorder.get("checks", {}).get(case_id, ()):
                made_up = check["name"] == "ignored_auth" and names.get(label) in IN_SESSION
                if check["status"] == "failure" and not made_up:
                    faults.setdefault(check["name"], []).append(_shown(label, exchange, check))
    for kind, found in sorted(faults.items()):
        for line in sorted(set(found))[:60]:
            print(f"{kind}: {line}")
    untested = sorted(set(names.values()) - accepted - NOT_TRIED) if not only else []
    print(f"calls: {dict(calls)}")
    demands = {
        f"{len(names)} operations, each answered with 2xx at least once": untested,
        **{text: faults.pop(check, []) for check, text in DEMANDS.items()},
        "nothing else differs from the description": [f for v in faults.values() for f in v],
    }
    for text, wrong in demands.items():
        print(f"  {'✗' if wrong else '✓'} {text}" + (f": {wrong[:20]}" if wrong else ""))
    failed = sum(bool(wrong) for wrong in demands.values())
    print(f"{len(demands) - failed} checks passed, {failed} failed")
    return 1 if failed else 0


def _shown(label: str, exchange: dict[str, Any], check: dict[str, Any]) -> str:
    sent, reply = exchange["request"], exchange["response"] or {}
    failure = check["failure_info"]["failure"]
    shown = (
        f"{label} [{reply.get('status_code')}] {failure['message'][:160]} | "
        f"{unquote(sent['uri'])[-160:]} {_text(sent.get('body'))[:300]} -> "
        f"{_text(reply.get('content'))[:300]}"
    )
    return shown.replace("\n", " ")


def _text(body: dict[str, str] | None) -> str:
    return base64.b64decode(body["$base64"]).decode(errors="replace") if body else ""


if __name__ == "__main__":
    sys.exit(main())

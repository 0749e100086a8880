"""The leases a worker holds, and until when each is good."""

from __future__ import annotations

import time
from collections.abc import Iterable, Sequence

from yugum.errors import LeaseLost
from yugum.ports.leases import Lease
from yugum.ports.units import Database


class HeldLeases:
    """Leases by what this machine's clock says of them; nothing is called under one that runs out."""

    def __init__(self, database: Database, worker: str, seconds: float) -> None:
        self._database = database
        self._worker = worker
        self._seconds = seconds
        self._good_until: dict[tuple[str, int], float] = {}

    def __len__(self) -> int:
        return len(self._good_until)

    async def claim(self, limit: int, *, most_urgent: bool) -> Sequence[Lease]:
        """Take up to so many due subjects."""
        asked = time.monotonic()
        async with self._database.unit() as unit:
            leases = await unit.leases.claim(
                self._worker, limit, self._seconds, most_urgent=most_urgent
            )
        for lease in leases:
            self._good_until[lease.subject_id, lease.epoch] = asked + self._seconds
        return leases

    async def renew(self) -> None:
        """Prolong all that are held."""
        if not self._good_until:
            return
        asked = time.monotonic()
        async with self._database.unit() as unit:
            held = [subject_id for subject_id, _ in self._good_until]
            renewed = await unit.leases.renew(self._worker, held, self._seconds)
        for lease in renewed:
            if (lease.subject_id, lease.epoch) in self._good_until:
                self._good_until[lease.subject_id, lease.epoch] = asked + self._seconds

    def check(self, subject_id: str, epoch: int, timeout: float) -> None:
        """No call starts unless the lease outlives its timeout.

        Raises:
            LeaseLost: it does not.
        """
        good = self._good_until.get((subject_id, epoch), 0.0)
        if time.monotonic() + min(timeout, self._seconds / 2) > good:
            raise LeaseLost(f"The lease on {subject_id} does not last for another call.")

    def let_go(self, leases: Iterable[Lease]) -> None:
        """These are not worked under any more."""
        for lease in leases:
            self._good_until.pop((lease.subject_id, lease.epoch), None)

    async def hand_back(self, lease: Lease) -> None:
        """The lease did not last for another call: the subject is due again at once.

        Its steps wait for no moment of their own; merely released it would be nobody's for ever. If
        another worker has it by now, this changes nothing but that it looks once more.
        """
        async with self._database.unit() as unit:
            await unit.leases.release([lease])
            await unit.leases.wake([lease.subject_id], priority=1)

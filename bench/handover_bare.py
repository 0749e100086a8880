"""Everything one account owns goes to another one, as a practitioner would script it, and is read back."""

from __future__ import annotations

import asyncio

import aiohttp


async def hand_over(url: str, token: str, old: str, new: str, at_a_time: int) -> int:
    """How many things of an account are another one's afterwards, as the application tells."""
    headers = {"Authorization": f"Bearer {token}"}
    async with aiohttp.ClientSession(headers=headers) as session:

        async def owned(by: str) -> list[str]:
            found: list[str] = []
            while True:
                query = {"filter": f'owner.value eq "{by}"', "startIndex": len(found) + 1}
                async with session.get(f"{url}/OwnedItems", params=query | {"count": 1000}) as got:
                    page = await got.json(content_type=None)
                found += [item["id"] for item in page.get("Resources", ())]
                if len(found) >= page["totalResults"]:
                    return found

        left = iter(await owned(old))
        body = {"Operations": [{"op": "replace", "path": "owner", "value": {"value": new}}]}

        async def some() -> None:
            for item in left:
                async with session.patch(f"{url}/OwnedItems/{item}", json=body) as answer:
                    answer.raise_for_status()

        await asyncio.gather(*(some() for _ in range(at_a_time)))
        return len(await owned(new))

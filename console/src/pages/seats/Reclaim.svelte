<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import { RECLAIM_COLUMNS } from '../../lib/columns';
  import Later from '../../lib/components/Later.svelte';
  import ListPart from '../../lib/components/ListPart.svelte';
  import PickBar from '../../lib/components/PickBar.svelte';
  import { plural } from '../../lib/format';
  import { Listing } from '../../lib/listing.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import { whose, type Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  /** Seats that could come back; those picked are taken back, by a decision and a plan. */
  let { id, query }: { id: string; query: Query } = $props();
  const list = new Listing<Schemas['SeatToReclaim']>(
    ['seats', 'accounts', 'people'],
    () => ({ page: 'seats', part: 'reclaim', query }),
    ({ limit, cursor }, signal) =>
      got(
        api.GET('/api/v1/seats/{pool_id}/reclaim', {
          params: { path: { pool_id: id }, query: { limit, cursor } },
          signal
        })
      )
  );
  let why = $state('');
  let wish = $state.raw<Wish | null>(null);

  async function take(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const rows = list.everything
      ? await list.all()
      : list.rows.filter((r) => list.picked.has(r.id));
    const who = (rows ?? []).flatMap((r) => r.person_id ?? []);
    if (who.length) wish = { verb: 'recheck', who, seats: { pool: id, why } };
  }
</script>

<h2>Could come back</h2>
<ListPart
  {list}
  columns={RECLAIM_COLUMNS}
  label="Could come back"
  to={(row) => whose(row.person_id, row.login)}
  picks={session.mayAct}
  none="Every seat is used by whom it is for."
>
  {#snippet cell(row, column)}{column.text(row)}{/snippet}
</ListPart>
<PickBar {list} words={(n) => plural(n, 'seat')}>
  <form class="search" onsubmit={take}>
    <input aria-label="Why" placeholder="Why" required maxlength="300" bind:value={why} />
    <button class="button">Take back …</button>
  </form>
</PickBar>
{#if wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    {wish}
    who={plural(wish.who?.length ?? 0, 'seat')}
    onclose={() => {
      wish = null;
      list.drop();
    }}
  />
{/if}

<style>
  form {
    display: flex;
    gap: 8px;
  }
</style>

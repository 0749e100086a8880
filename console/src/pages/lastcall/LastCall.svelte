<script lang="ts">
  import { api, got } from '../../lib/api';
  import { WINDOW_COLUMNS, type Back } from '../../lib/columns';
  import Later from '../../lib/components/Later.svelte';
  import ListPart from '../../lib/components/ListPart.svelte';
  import PickBar from '../../lib/components/PickBar.svelte';
  import { WINDOWS } from '../../lib/filters';
  import { left, plural } from '../../lib/format';
  import { Listing } from '../../lib/listing.svelte';
  import { ask } from '../../lib/query.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import { whose, type Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import Holds from './Holds.svelte';

  let { query = {} }: { query?: Query } = $props();
  const list = new Listing<Back>(
    ['accounts', 'decisions'],
    () => ({ page: 'last-call', query }),
    async (query, signal) => {
      const page = await got(api.GET('/api/v1/last-call', { params: { query }, signal }));
      return { ...page, items: page.items.map((w) => ({ ...w, id: w.account_id })) };
    }
  );
  const clock = ask(
    ['clock'],
    () => ['clock'],
    (signal) => got(api.GET('/api/v1/clock', { signal }))
  );
  const now = $derived(clock.data ? Date.parse(clock.data.now) : Date.now());
  let wish = $state.raw<Wish | null>(null);

  /** Those picked; of all that fit, as they are now. */
  async function restore(): Promise<void> {
    const picked = list.everything ? (await list.all())?.map((row) => row.id) : [...list.picked];
    if (picked) wish = { verb: 'account', accounts: picked, action: 'restore' };
  }
</script>

<svelte:head><title>Last call · Yugum</title></svelte:head>
<h1>Last call</h1>
<div class="facts">
  {#if list.count !== null}<span><b>{list.count}</b> can still be brought back</span>{/if}
</div>
<ListPart
  {list}
  page="last-call"
  columns={WINDOW_COLUMNS}
  fields={WINDOWS}
  label="Last call"
  picks={session.mayAct}
  to={(row) => whose(row.person_id, row.login)}
  none="Nothing fits these filters. Take one away to see more."
>
  {#snippet cell(row, column)}
    {#if column.name === 'held'}{left(row.recoverable_until, now)}
      {#if row.held}<span class="tag">on hold</span>{/if}{:else}{column.text(row)}{/if}
  {/snippet}
  <p>
    Nothing that was deleted can be brought back at the moment, and nothing is about to be lost.
  </p>
</ListPart>
<PickBar {list} words={(count) => plural(count, 'account')}>
  <button class="button do" disabled={list.busy} onclick={() => void restore()}
    >Restore {list.everything ? 'them' : plural(list.picked.size, 'account')} …</button
  >
</PickBar>
<Holds />
{#if wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    {wish}
    who={plural(wish.accounts?.length ?? 0, 'account')}
    onclose={() => (wish = null)}
  />
{/if}

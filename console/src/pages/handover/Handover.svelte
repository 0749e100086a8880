<script lang="ts">
  import { onMount } from 'svelte';
  import { BOARD_COLUMNS } from '../../lib/columns';
  import ListPart from '../../lib/components/ListPart.svelte';
  import { HANDOVERS } from '../../lib/filters';
  import { asked, because, newHome } from '../../lib/handover';
  import { router, type Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import AskedTable from './AskedTable.svelte';
  import { Board } from './board.svelte';
  import SettleMany from './SettleMany.svelte';

  let { query = {} }: { query?: Query } = $props();
  const board = new Board(() => query);
  const { list } = board;
  // Whoever comes without asking for anything comes for what is open.
  onMount(() => {
    if (!Object.keys(query).length)
      router.go({ page: 'handover', query: { settled: 'open' } }, true);
  });
</script>

<svelte:head><title>Handover · Yugum</title></svelte:head>
<h1>Handover</h1>
<p class="soft">
  What people who leave or have left still own, as last seen; whose access ended or ends first
  stands first.
</p>
<ListPart
  {list}
  page="handover"
  columns={BOARD_COLUMNS}
  fields={HANDOVERS}
  label="What they own"
  picks={session.mayAct}
  to={(row) => `/people/${row.user_name}?part=owns`}
  problem={board.problem}
  none={query.settled === 'open'
    ? 'Nothing is open: everything has a new home.'
    : 'Nothing fits these filters. Take one away to see more.'}
>
  {#snippet cell(row, column)}
    {#if column.name === 'settled'}
      <span class={{ short: row.settled === 'open' && !asked(row) }}>{newHome(row)}</span>
      {#if because(row)}<span class="soft">({because(row)})</span>{/if}
    {:else}{column.text(row)}{/if}
  {/snippet}
  <p>Nobody who leaves or has left owns anything.</p>
</ListPart>
{#if list.next}
  <p><button class="button" onclick={() => void list.more()}>More of them</button></p>
{/if}
{#if session.mayAct && list.picked.size}<SettleMany {board} />{/if}
<p class="unprinted">
  <button class="button plain" onclick={() => window.print()}>Print …</button>
</p>
<AskedTable />

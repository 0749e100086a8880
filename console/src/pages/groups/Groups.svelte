<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import ListPart from '../../lib/components/ListPart.svelte';
  import { GROUPS } from '../../lib/filters';
  import { Listing, OPEN } from '../../lib/listing.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import { href, type Query } from '../../lib/router.svelte';
  import { GROUP_COLUMNS } from './columns';
  import GroupsHead from './GroupsHead.svelte';
  import OwnerCell from './OwnerCell.svelte';

  let { query = {} }: { query?: Query } = $props();
  const list = new Listing<Schemas['GroupRow']>(
    ['accounts'],
    () => ({ page: 'groups', query }),
    (query, signal) => got(api.GET('/api/v1/groups', { params: { query }, signal }))
  );
  let wish = $state.raw<Wish | null>(null);
  let named = $state('');
  let form = $state.raw<Schemas['GroupRow'] | 'new' | null>(null);
  const opened = $derived(list.rows.find((row) => row.id === query[OPEN]));
  const close = () => list.ask({ [OPEN]: '' });

  function plan(name: string, what: Wish): void {
    named = name;
    form = null;
    if (opened) close();
    wish = what;
  }
</script>

<svelte:head><title>Groups · Yugum</title></svelte:head>
<h1>Groups</h1>
<GroupsHead {list} onnew={() => (form = 'new')} />
<ListPart
  {list}
  page="groups"
  columns={GROUP_COLUMNS}
  fields={GROUPS}
  label="Groups"
  to={(row) => href({ page: 'groups', query: { ...query, [OPEN]: row.id } })}
  none="No group fits these filters. Take one away to see more."
>
  {#snippet cell(row, column)}
    {#if column.name === 'owner_name'}<OwnerCell {row} />{:else}{column.text(row)}{/if}
  {/snippet}
  <p>No group here can be changed. Connect an application that lets groups be made.</p>
</ListPart>
{#if form}
  <Later
    load={() => import('./GroupForm.svelte')}
    group={form === 'new' ? null : form}
    onclose={() => (form = null)}
    onwish={plan}
  />
{:else if opened}
  <Later
    load={() => import('./GroupPanel.svelte')}
    row={opened}
    onclose={close}
    onwish={plan}
    onchange={() => (form = opened)}
  />
{/if}
{#if wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    {wish}
    who={named}
    onclose={() => (wish = null)}
  />
{/if}

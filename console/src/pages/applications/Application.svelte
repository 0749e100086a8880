<script lang="ts">
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { dateOf, plural } from '../../lib/format';
  import { applications } from '../../lib/query.svelte';
  import { href, type Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import ApplicationAccounts from './ApplicationAccounts.svelte';
  import ApplicationFaults from './ApplicationFaults.svelte';
  import ApplicationHead from './ApplicationHead.svelte';
  import ReadingsPart from './ReadingsPart.svelte';
  import Windows from './Windows.svelte';

  let { id, query = {} }: { id: string; query?: Query } = $props();
  const load = applications();
  const row = $derived(load.data?.find((one) => one.id === id));
  const can = $derived(row?.capabilities.map((c) => c.replaceAll('_', ' ')).join(', ') ?? '');
</script>

<svelte:head><title>{row?.name ?? 'Application'} · Yugum</title></svelte:head>
<ProblemNote problem={load.problem} />
{#if row}
  <ApplicationHead {row} changed={() => void load.run()} />
  <dl>
    <dt>Can do</dt>
    <dd>{can || 'nothing but be looked at'}</dd>
    <dt>Whom to call</dt>
    <dd>{row.contact || 'nobody is named'}{row.owner ? `; it belongs to ${row.owner}` : ''}</dd>
    {#if row.address}
      <dt>Reached at</dt>
      <dd class="mono">{row.address}</dd>
    {/if}
    <dt>Credential</dt>
    <dd>
      {row.credential_ends
        ? `until ${dateOf(row.credential_ends, session.zone)}`
        : 'nobody has said how long it is good'}
    </dd>
    <dt>Calls</dt>
    <dd>
      {row.profile.calls_per_second
        ? `${plural(row.profile.calls_per_second, 'call')} a second at most`
        : 'as fast as it answers'}
    </dd>
    {#if row.group_fields.length}
      <dt>Groups</dt>
      <dd><a href={href({ page: 'groups', query: { application: id } })}>those of it</a></dd>
    {/if}
  </dl>
  {#if row.kind !== 'sign-on'}
    <h2>A leaver’s account</h2>
    <Windows {row} />
    <ApplicationFaults {id} />
    <ReadingsPart {id} />
    <ApplicationAccounts {id} {query} />
  {/if}
{:else if load.data}
  <h1>No such application</h1>
  <p>
    There is no application <span class="mono">{id}</span>.
    <a href="/applications">All there are</a>
  </p>
{/if}

<style>
  dl {
    display: grid;
    grid-template-columns: max-content minmax(0, 1fr);
    gap: 3px 16px;
    margin: 0;
  }
  dt {
    color: var(--color-surface-600-400);
  }
  dd {
    margin: 0;
    overflow-wrap: anywhere;
  }
</style>

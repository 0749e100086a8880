<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import { session } from '../../lib/session.svelte';
  import GroupLine from './GroupLine.svelte';

  let q = $state('');
  const load = ask(
    ['accounts'],
    () => ['groups', q],
    (signal) => got(api.GET('/api/v1/groups', { params: { query: { q, limit: 200 } }, signal }))
  );
  let wish = $state.raw<Wish | null>(null);
  let named = $state('');
  let form = $state.raw<Schemas['GroupRow'] | 'new' | null>(null);
  const rows = $derived(load.data?.items ?? []);
  const ownerless = $derived(rows.filter((r) => !r.owner_name || r.owner_left).length);

  function plan(name: string, what: Wish): void {
    named = name;
    form = null;
    wish = what;
  }
</script>

<svelte:head><title>Groups · Yugum</title></svelte:head>
<h1>Groups</h1>
{#if load.data}
  <div class="facts">
    <span><b>{plural(load.data.total ?? rows.length, 'group')}</b> that can be changed</span>
    {#if ownerless}
      <span class="short"><b>{ownerless}</b> without an owner who is here</span>
    {:else}
      <span>each has an owner who is here</span>
    {/if}
  </div>
{/if}
<form
  class="row"
  onsubmit={(event) => {
    event.preventDefault();
    void load.run();
  }}
>
  <label class="field"><span>Part of a name</span><input bind:value={q} /></label>
  <button class="button">Find</button>
  {#if session.mayAct}
    <button class="button" type="button" onclick={() => (form = 'new')}>New group …</button>
  {/if}
</form>
<ProblemNote problem={load.problem} />
{#if rows.length}
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Group</th><th>Application</th><th>Owner</th><th>Address</th><th>Outside senders</th
          ><th>In it</th><th>State</th><th>What can be done</th></tr
        >
      </thead>
      <tbody>
        {#each rows as row (row.id)}
          <GroupLine {row} onwish={plan} onchange={() => (form = row)} />
        {/each}
      </tbody>
    </table>
  </div>
  {#if load.data?.next}
    <p class="soft">These are the first 200; narrow them down by a part of the name.</p>
  {/if}
{:else if load.data}
  <p>No group here can be changed. Connect an application that lets groups be made.</p>
{/if}
{#if form}
  <Later
    load={() => import('./GroupForm.svelte')}
    group={form === 'new' ? null : form}
    onclose={() => (form = null)}
    onwish={plan}
  />
{/if}
{#if wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    {wish}
    who={named}
    onclose={() => {
      wish = null;
      void load.run();
    }}
  />
{/if}

<style>
  .row {
    display: flex;
    flex-wrap: wrap;
    align-items: end;
    gap: 8px 12px;
    margin-bottom: 12px;
  }
  .short b {
    color: var(--color-error-600-400);
  }
</style>

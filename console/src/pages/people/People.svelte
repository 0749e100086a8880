<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import StateMark from '../../lib/components/StateMark.svelte';
  import { plural } from '../../lib/format';
  import { Load } from '../../lib/load.svelte';
  import { href, router } from '../../lib/router.svelte';

  let { q }: { q: string } = $props();
  // svelte-ignore state_referenced_locally
  let text = $state(q);
  let rows = $state.raw<Schemas['PersonRow'][]>([]);
  let next = $state<string | null>(null);
  let total = $state<number | null>(null);

  const load = new Load(async () => {
    const query = { q, limit: 50, cursor: next ?? undefined };
    const page = await got(api.GET('/api/v1/people', { params: { query } }));
    rows = [...rows, ...page.items];
    next = page.next ?? null;
    total = page.total ?? total;
    return page;
  });
  void load.run();

  function search(event: SubmitEvent): void {
    event.preventDefault();
    router.go({ page: 'people', q: text.trim() });
  }
</script>

<svelte:head><title>People · Yugum</title></svelte:head>
<h1>People</h1>
<div class="facts">
  {#if total !== null}<span><b>{total}</b> {q ? `found for “${q}”` : 'in all'}</span>{/if}
</div>
<form class="search" role="search" aria-label="People" onsubmit={search}>
  <input
    aria-label="Any part of a name, login or number"
    bind:value={text}
    placeholder="Any part of a name, login or number"
  />
  <button class="button">Search</button>
</form>
<ProblemNote problem={load.problem} />
{#if rows.length}
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Name</th><th>Login</th><th>Number</th><th>Department</th><th>Title</th><th>Site</th
          ><th>Open accounts</th><th>State</th></tr
        >
      </thead>
      <tbody>
        {#each rows as row (row.id)}
          <tr>
            <td class="name"
              ><a href={href({ page: 'person', who: row.id })}>{row.display_name}</a></td
            >
            <td class="mono">{row.user_name}</td>
            <td class="mono">{row.employee_number}</td>
            <td>{row.department}</td>
            <td>{row.title}</td>
            <td class="soft">{row.site}</td>
            <td class="mono">{row.open_accounts}</td>
            <td><StateMark state={row.state} /></td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if next}
    <p>
      <button class="button" onclick={() => load.run()} disabled={load.busy}>Show more</button>
      <span class="soft">{plural(rows.length, 'person').replace('persons', 'people')} shown</span>
    </p>
  {/if}
{:else if load.data}
  <p>Nobody fits “{q}”. Any part of a name, login or number finds somebody.</p>
{/if}

<style>
  .search {
    display: flex;
    gap: 8px;
    max-width: 460px;
    margin-bottom: 14px;
  }
</style>

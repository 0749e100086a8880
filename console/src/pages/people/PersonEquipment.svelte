<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { dateOf } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';

  let { who, leaving }: { who: string; leaving: boolean } = $props();
  const load = ask(
    ['shared', 'people'],
    () => ['equipment', who],
    (signal) =>
      got(api.GET('/api/v1/equipment', { params: { query: { who, limit: 200 } }, signal }))
  );
  let id = $state('');
  let name = $state('');

  const handOut = (): Promise<void> =>
    load.after(async () => {
      await got(api.PUT('/api/v1/equipment', { body: { id, name, holder: who, renamed: false } }));
      id = name = '';
    });
  const back = (thing: string): Promise<void> =>
    load.after(() => {
      const path = { thing_id: thing };
      return got(api.POST('/api/v1/equipment/{thing_id}/back', { params: { path }, body: {} }));
    });
</script>

<ProblemNote problem={load.problem} />
{#if load.data?.items.length || session.mayAct}
  <section aria-labelledby="equipment">
    <h2 id="equipment">{leaving ? 'To give back' : 'Equipment and keys'}</h2>
    {#if load.data?.items.length}
      <ul>
        {#each load.data.items as row (row.id)}
          <li>
            <b>{row.name}</b> <span class="mono">{row.id}</span>
            <span class="soft">since {row.since ? dateOf(row.since, session.zone) : ''}</span>
            {#if session.mayAct}
              <button
                class="button slim"
                aria-label="It is back: {row.name}"
                onclick={() => void back(row.id)}>It is back</button
              >
            {/if}
          </li>
        {/each}
      </ul>
    {:else}
      <p class="soft">Nothing is written down.</p>
    {/if}
    {#if session.mayAct && !leaving}
      <form
        class="form-row"
        onsubmit={(event) => {
          event.preventDefault();
          void handOut();
        }}
      >
        <label class="field"
          ><span>What stands on it</span><input bind:value={id} required maxlength="60" /></label
        >
        <label class="field"
          ><span>What it is</span><input bind:value={name} required maxlength="200" /></label
        >
        <button class="button" disabled={load.acting}>Hand it out</button>
      </form>
    {/if}
  </section>
{/if}

<style>
  ul {
    list-style: none;
    padding: 0;
    margin: 0 0 8px;
  }
  li {
    display: flex;
    flex-wrap: wrap;
    align-items: baseline;
    gap: 4px 12px;
    padding: 2px 0;
  }
</style>

<script lang="ts">
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { dateOf } from '../../lib/format';
  import { session } from '../../lib/session.svelte';
  import { Equipment } from './equipment.svelte';

  let { who, leaving }: { who: string; leaving: boolean } = $props();
  const it = new Equipment(() => who);
</script>

<ProblemNote problem={it.load.problem} />
{#if it.load.data?.items.length || session.mayAct}
  <section aria-labelledby="equipment">
    <h2 id="equipment">{leaving ? 'To give back' : 'Equipment and keys'}</h2>
    {#if it.load.data?.items.length}
      <ul>
        {#each it.load.data.items as row (row.id)}
          <li>
            <b>{row.name}</b> <span class="mono">{row.id}</span>
            <span class="soft">since {row.since ? dateOf(row.since, session.zone) : ''}</span>
            {#if session.mayAct}
              <button
                class="button slim"
                aria-label="It is back: {row.name}"
                onclick={() => void it.back(row.id)}>It is back</button
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
          void it.handOut();
        }}
      >
        <label class="field"
          ><span>What stands on it</span><input bind:value={it.id} required maxlength="60" /></label
        >
        <label class="field"
          ><span>What it is</span><input bind:value={it.name} required maxlength="200" /></label
        >
        <button class="button" disabled={it.load.acting}>Hand it out</button>
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

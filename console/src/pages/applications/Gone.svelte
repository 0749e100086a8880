<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { dateOf } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';

  const load = ask(
    ['applications'],
    () => ['applications/disconnected'],
    (signal) => got(api.GET('/api/v1/applications/disconnected', { signal }))
  );
  let erasing = $state.raw<Schemas['DisconnectedRow'] | null>(null);
  const rows = $derived(load.data ?? []);
</script>

<ProblemNote problem={load.problem} />
{#if rows.length}
  <h2>Not connected any more</h2>
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Name</th><th>Since</th><th class="num">Accounts kept</th><th
            ><span class="visually-hidden">Erase</span></th
          ></tr
        >
      </thead>
      <tbody>
        {#each rows as row (row.id)}
          <tr>
            <td class="name">{row.name} <span class="soft small mono">{row.id}</span></td>
            <td>{dateOf(row.disconnected_at, session.zone)}</td>
            <td class="num mono">{row.archived}</td>
            <td
              >{#if session.mayAdminister && row.archived}<button
                  class="button slim"
                  aria-label="Erase what is kept of {row.name} …"
                  onclick={() => (erasing = row)}>Erase …</button
                >{/if}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}
{#if erasing}
  <Later
    load={() => import('./Disconnect.svelte')}
    id={erasing.id}
    name={erasing.name}
    connected={false}
    onclose={() => (erasing = null)}
    ondone={() => {
      erasing = null;
      void load.run();
    }}
  />
{/if}

<style>
  .name span {
    font-weight: 400;
  }
  h2 {
    margin-top: 26px;
  }
</style>

<script lang="ts">
  import { api, got, type Problem, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { asProblem } from '../../lib/load.svelte';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';
  import { VERBS } from '../../lib/words';
  import Moment from '../../lib/components/Moment.svelte';

  const load = ask(
    ['waiting'],
    () => ['plans'],
    (signal) => got(api.GET('/api/v1/plans', { signal }))
  );
  if (session.mayAct) void load.run();
  const rows = $derived(load.data ?? []);
  let batch = $state.raw<Schemas['BatchView'] | null>(null);
  let problem = $state.raw<Problem | null>(null);

  async function open(id: string): Promise<void> {
    problem = null;
    try {
      const path = { batch_id: id };
      batch = await got(api.GET('/api/v1/plans/{batch_id}', { params: { path } }));
    } catch (error) {
      problem = asProblem(error);
    }
  }
</script>

<ProblemNote problem={load.problem ?? problem} />
{#if rows.length}
  <h2>Prepared in confidence</h2>
  <p class="soft">Nobody but you sees these.</p>
  <div class="scroll">
    <table class="list">
      <thead><tr><th>Who</th><th>What</th><th>Prepared</th><th>Look and carry out</th></tr></thead>
      <tbody>
        {#each rows as row (row.batch_id)}
          <tr>
            <td class="name">{row.names.join(', ')}</td>
            <td>{VERBS[row.verb] ?? row.verb}</td>
            <td><Moment at={row.made_at} zone={session.zone} /></td>
            <td><button class="button" onclick={() => void open(row.batch_id)}>Open …</button></td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}
{#if batch}
  <Later load={() => import('./PreparedBatch.svelte')} {batch} onclose={() => (batch = null)} />
{/if}

<script lang="ts">
  import { api, got } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { ask } from '../../lib/query.svelte';
  import OperatorLine from './OperatorLine.svelte';

  let adding = $state(false);
  const load = ask(
    ['access'],
    () => ['operators'],
    (signal) => got(api.GET('/api/v1/operators', { params: { query: { limit: 200 } }, signal }))
  );
  const rows = $derived(load.data?.items ?? []);
</script>

<div class="titled">
  <h2>Operators</h2>
  <button class="button slim" onclick={() => (adding = true)}>New operator …</button>
</div>
<ProblemNote problem={load.problem} />
<div class="scroll">
  <table class="list">
    <thead>
      <tr
        ><th>Login</th><th>Name</th><th>Role</th><th>State</th><th
          ><span class="visually-hidden">What to do</span></th
        ></tr
      >
    </thead>
    <tbody>
      {#each rows as row (row.id)}
        <OperatorLine {row} onchanged={() => void load.run()} />
      {/each}
    </tbody>
  </table>
</div>
{#if adding}
  <Later
    load={() => import('./NewOperator.svelte')}
    onclose={() => (adding = false)}
    onmade={() => void load.run()}
  />
{/if}

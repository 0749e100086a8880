<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { ask } from '../../lib/query.svelte';
  import ApprovalLine from './ApprovalLine.svelte';

  const load = ask(
    ['waiting'],
    () => ['approvals'],
    (signal) => got(api.GET('/api/v1/approvals', { signal }))
  );
  const rows = $derived(load.data?.items ?? []);
</script>

<ProblemNote problem={load.problem} />
{#if rows.length}
  <h2>Approvals</h2>
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>What</th><th>Asked</th><th>Since</th><th>Until</th><th>Docket</th><th>Answer</th></tr
        >
      </thead>
      <tbody>
        {#each rows as row (row.id)}<ApprovalLine {row} changed={() => load.run()} />{/each}
      </tbody>
    </table>
  </div>
{/if}

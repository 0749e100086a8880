<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import ShowMore from '../../lib/components/ShowMore.svelte';
  import { Listing } from '../../lib/listing.svelte';
  import ApprovalLine from './ApprovalLine.svelte';

  const list = new Listing<Schemas['ApprovalRow']>(
    ['waiting'],
    () => ({ page: 'waiting', part: 'approvals' }),
    (query, signal) => got(api.GET('/api/v1/approvals', { params: { query }, signal }))
  );
</script>

<ProblemNote problem={list.problem} />
{#if list.rows.length}
  <h2>Approvals</h2>
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>What</th><th>Asked</th><th>Since</th><th>Until</th><th>Docket</th><th>Answer</th></tr
        >
      </thead>
      <tbody>
        {#each list.rows as row (row.id)}<ApprovalLine
            {row}
            changed={() => void list.again()}
          />{/each}
      </tbody>
    </table>
  </div>
  <ShowMore {list} />
{/if}

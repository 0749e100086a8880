<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { cellOf, mark, told, type Matrix } from './matrix.svelte';

  let { matrix, pools }: { matrix: Matrix; pools: Schemas['PoolRow'][] } = $props();
</script>

<div class="scroll">
  <table class="list" aria-label="People by licenses">
    <thead>
      <tr>
        <th scope="col">Person</th><th scope="col">Department</th>
        {#each pools as pool (pool.id)}
          <th scope="col" class="pool"
            ><a href={href({ page: 'seats', query: { pool: pool.id } })}>{pool.license}</a><span
              class="soft">{pool.unlimited ? 'any' : `${Math.max(0, pool.free)} free`}</span
            ></th
          >
        {/each}
      </tr>
    </thead>
    <tbody>
      {#each matrix.list.rows as row (row.person_id)}
        <tr>
          <th scope="row" class="name"
            ><a href={href({ page: 'person', who: row.login })}>{row.person_name}</a></th
          >
          <td class="soft">{row.department}</td>
          {#each pools as pool (pool.id)}
            {@const cell = cellOf(row, pool.id)}
            <td class="cell">
              {#if session.mayAct}
                <button
                  class="bare"
                  aria-pressed={matrix.isPicked(row, pool.id)}
                  aria-label="{row.person_name}, {pool.license}: {told(cell)}"
                  onclick={() => matrix.pick(row, pool.id)}>{mark(cell) || '·'}</button
                >
              {:else}<span title={told(cell)}>{mark(cell)}</span>{/if}
            </td>
          {/each}
        </tr>
      {/each}
    </tbody>
  </table>
</div>

<style>
  .pool {
    white-space: normal;
    max-width: 9rem;
    text-align: center;
  }
  .pool span {
    display: block;
    font-weight: 400;
  }
  .cell {
    text-align: center;
    padding: 0;
  }
  th.name {
    text-align: left;
    font-size: inherit;
    color: inherit;
  }
  button {
    width: 100%;
    min-height: 36px;
  }
  button[aria-pressed='true'] {
    background: var(--color-surface-contrast-50-950);
    color: var(--color-surface-50-950);
  }
</style>

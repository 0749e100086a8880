<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { amount } from '../../lib/format';
  import { href } from '../../lib/router.svelte';

  /** Every pool in a line; the one that is open is marked. */
  let { pools, open }: { pools: Schemas['PoolRow'][]; open: string } = $props();
</script>

<div class="scroll">
  <table class="list">
    <thead>
      <tr
        ><th>License</th><th>Application</th><th class="num">Bought</th><th class="num">Held</th><th
          class="num">Set aside</th
        ><th class="num">Free</th><th class="num">Waiting</th><th class="num">A seat</th><th
          >Used</th
        ></tr
      >
    </thead>
    <tbody>
      {#each pools as pool (pool.id)}
        <tr class:here={open === pool.id}>
          <td class="name"
            ><a href={href({ page: 'seats', query: open === pool.id ? {} : { pool: pool.id } })}
              >{pool.license}</a
            ></td
          >
          <td
            ><a href={href({ page: 'seats', query: { matrix: pool.application_id } })}
              >{pool.application_name}</a
            ></td
          >
          <td class="num mono">{pool.unlimited ? 'any' : pool.bought}</td>
          <td class="num mono">{pool.held}</td>
          <td class="num mono">{pool.reserved || ''}</td>
          <td class="num mono" class:short={pool.over > 0}
            >{pool.unlimited ? '' : pool.over ? -pool.over : Math.max(0, pool.free)}</td
          >
          <td class="num mono" class:short={pool.waiting > 0}>{pool.waiting}</td>
          <td class="num mono"
            >{pool.price === null
              ? ''
              : `${amount(pool.price, pool.currency)} a ${pool.period}`}</td
          >
          <td
            ><svg width="160" height="12" role="img" aria-label="{pool.held} of {pool.bought} held">
              <rect width="160" height="12" class="all" /><rect
                width={Math.min(160, (160 * pool.held) / Math.max(1, pool.bought))}
                height="12"
                class="held"
              />
            </svg></td
          >
        </tr>
      {/each}
    </tbody>
  </table>
</div>

<style>
  svg {
    vertical-align: middle;
  }
  .all {
    fill: var(--color-surface-200-800);
    stroke: var(--color-surface-300-700);
  }
  .held {
    fill: var(--color-success-600-400);
  }
  .short {
    color: var(--color-error-600-400);
    font-weight: 700;
  }
</style>

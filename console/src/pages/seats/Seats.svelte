<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { amount, money, together } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { href, type Query } from '../../lib/router.svelte';
  import Later from '../../lib/components/Later.svelte';

  const load = ask(
    ['seats'],
    () => ['seats'],
    (signal) => got(api.GET('/api/v1/seats', { signal }))
  );
  let { query = {} }: { query?: Query } = $props();
  const open = $derived(query.pool ?? '');
  const pools = $derived(load.data ?? []);
  const waiting = $derived(pools.reduce((sum, p) => sum + p.waiting, 0));
  const cost = $derived(together(pools.map((p) => p.cost)));
  const free = $derived(pools.reduce((sum, p) => sum + Math.max(0, p.free), 0));
</script>

<svelte:head><title>Seats · Yugum</title></svelte:head>
<h1>Seats</h1>
<div class="facts">
  <span><b>{waiting}</b> {waiting === 1 ? 'person waits' : 'people wait'} in line</span>
  <span><b>{free}</b> free</span>
  <span><b>{money(cost) || 'nothing said'}</b> a month for seats held</span>
</div>
<ProblemNote problem={load.problem} />
{#if pools.length}
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>License</th><th>Application</th><th class="num">Bought</th><th class="num">Held</th
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
            <td>{pool.application_name}</td>
            <td class="num mono">{pool.unlimited ? 'any' : pool.bought}</td>
            <td class="num mono">{pool.held}</td>
            <td class="num mono" class:short={pool.over > 0}>{pool.unlimited ? '' : pool.free}</td>
            <td class="num mono" class:short={pool.waiting > 0}>{pool.waiting}</td>
            <td class="num mono"
              >{pool.price === null
                ? ''
                : `${amount(pool.price, pool.currency)} a ${pool.period}`}</td
            >
            <td
              ><svg
                width="160"
                height="12"
                role="img"
                aria-label="{pool.held} of {pool.bought} held"
              >
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
  {#if open}<Later load={() => import('./PoolPart.svelte')} id={open} {query} />{/if}
{:else if load.data}
  <p>
    Pools of license seats stand here. Connect an application, or add one: <span class="mono"
      >yugum seats pool</span
    >.
  </p>
{/if}

<style>
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

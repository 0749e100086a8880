<script lang="ts">
  import Later from '../../lib/components/Later.svelte';
  import { plural } from '../../lib/format';
  import type { Wish } from '../../lib/plan.svelte';
  import type { Matrix } from './matrix.svelte';

  /** What is picked, and the plan by which it is given and taken. */
  let { matrix }: { matrix: Matrix } = $props();
  let wish = $state.raw<Wish | null>(null);
  const counts = $derived(matrix.counts);

  function plan(event: SubmitEvent): void {
    event.preventDefault();
    wish = { verb: 'recheck', turns: { turns: matrix.turns, reason: matrix.why, ends: '' } };
  }
</script>

{#if matrix.picked.size}
  <div class="picked" role="region" aria-label="What is picked">
    <b
      >{counts.give ? `${plural(counts.give, 'seat')} to give` : ''}{counts.give && counts.take
        ? ', '
        : ''}{counts.take ? `${plural(counts.take, 'seat')} to take` : ''}</b
    >
    <form class="search" onsubmit={plan}>
      <input aria-label="Why" placeholder="Why" required maxlength="300" bind:value={matrix.why} />
      <button class="button do">Look at the plan …</button>
    </form>
    <button class="button plain" onclick={() => matrix.picked.clear()}>Pick none</button>
  </div>
{/if}
{#if wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    {wish}
    who={plural(matrix.picked.size, 'seat')}
    onclose={() => {
      wish = null;
      matrix.picked.clear();
    }}
  />
{/if}

<style>
  form {
    display: flex;
    gap: 8px;
  }
</style>

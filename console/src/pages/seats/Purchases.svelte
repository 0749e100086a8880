<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { dateOf, plural } from '../../lib/format';
  import { session } from '../../lib/session.svelte';
  import type { Pool } from './pool.svelte';

  /** What was bought for a pool, each with its term; an administrator adds and takes away. */
  let { pool, view }: { pool: Pool; view: Schemas['PoolView'] } = $props();
  const day = (said: string | null, none: string): string =>
    said ? dateOf(said, session.zone) : none;
</script>

<h2 id="bought">Bought</h2>
{#if view.purchases.length}
  <div class="scroll">
    <table class="list" aria-labelledby="bought">
      <thead
        ><tr
          ><th class="num">Seats</th><th>From</th><th>Term ends</th><th>Order</th><th
            >Entered by mistake</th
          ></tr
        ></thead
      >
      <tbody>
        {#each view.purchases as one (one.id)}
          <tr>
            <td class="num mono">{one.count}</td>
            <td>{day(one.begins, '')}</td>
            <td>{day(one.ends, 'no end')}</td>
            <td>{one.reference}</td>
            <td
              >{#if session.mayAdminister}<button
                  class="button slim"
                  aria-label="Take away: {plural(one.count, 'seat')} {one.reference}"
                  onclick={() => void pool.unbuy(one.id)}>Take away</button
                >{/if}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{:else}<p class="soft">Nothing was bought.</p>{/if}
{#if session.mayAdminister}
  <form
    class="form-row"
    onsubmit={(event) => {
      event.preventDefault();
      void pool.buy();
    }}
  >
    <label class="field"
      ><span>Seats</span><input
        type="number"
        min="1"
        required
        bind:value={pool.bought.count}
      /></label
    >
    <label class="field"
      ><span>From</span><input type="date" bind:value={pool.bought.begins} /></label
    >
    <label class="field"
      ><span>Last day of the term, if it ends</span><input
        type="date"
        bind:value={pool.bought.ends}
      /></label
    >
    <label class="field"
      ><span>Order</span><input maxlength="300" bind:value={pool.bought.reference} /></label
    >
    <button class="button" disabled={pool.load.acting}>Add</button>
  </form>
{/if}

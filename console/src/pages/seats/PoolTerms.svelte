<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import type { Pool } from './pool.svelte';

  /** Price, currency, notice of a pool; what is left empty stays. */
  let { pool, view }: { pool: Pool; view: Schemas['PoolView'] } = $props();
</script>

<details ontoggle={(event) => event.currentTarget.open && pool.begin(view)}>
  <summary>Price and terms …</summary>
  <form
    class="form-row"
    onsubmit={(event) => {
      event.preventDefault();
      void pool.save(view);
    }}
  >
    <label class="field"
      ><span>Price of a seat</span><input inputmode="decimal" bind:value={pool.said.price} /></label
    >
    <label class="field"
      ><span>Currency</span><input
        class="mono"
        maxlength="3"
        required
        bind:value={pool.said.currency}
      /></label
    >
    <label class="field"
      ><span>Paid for a</span><select bind:value={pool.said.period}
        ><option value="month">month</option><option value="year">year</option></select
      ></label
    >
    <label class="field"
      ><span>Notice, days before a term ends</span><input
        type="number"
        min="0"
        bind:value={pool.said.notice_days}
      /></label
    >
    <label class="check"
      ><input type="checkbox" bind:checked={pool.said.unlimited} /> As many as one likes</label
    >
    <button class="button" disabled={pool.load.acting}>Save</button>
  </form>
</details>

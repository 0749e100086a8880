<script lang="ts">
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { amount, money, plural } from '../../lib/format';
  import type { Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import Holders from './Holders.svelte';
  import Orders from './Orders.svelte';
  import PoolForecast from './PoolForecast.svelte';
  import PoolTerms from './PoolTerms.svelte';
  import Purchases from './Purchases.svelte';
  import Reclaim from './Reclaim.svelte';
  import Reservations from './Reservations.svelte';
  import { Pool } from './pool.svelte';

  let { id, query }: { id: string; query: Query } = $props();
  const pool = new Pool(() => id);
  const view = $derived(pool.load.data);
</script>

<ProblemNote problem={pool.load.problem} />
{#if pool.load.problem?.place === 'bought' && session.mayAdminister}
  <label class="check"
    ><input type="checkbox" bind:checked={pool.below} /> Fewer than are held are meant</label
  >
{/if}
{#if view}
  <div class="facts">
    <span><b>{view.license}</b>, {view.application_name}</span>
    <span
      >{view.price === null
        ? 'nobody has said its price'
        : `${amount(view.price, view.currency)} a ${view.period} and seat`}</span
    >
    {#if view.price !== null}<span>{money(view.cost)} a month held</span>{/if}
    {#if view.over}<span class="tag"
        >{plural(view.over, 'seat')} held that {view.over === 1 ? 'was' : 'were'} not bought</span
      >{/if}
    {#if view.differs}<span class="tag">the application says {view.reported}</span>{/if}
  </div>
  {#if !view.unlimited}<PoolForecast {id} />{/if}
  <Purchases {pool} {view} />
  {#if session.mayAdminister}<PoolTerms {pool} {view} />{/if}
  {#if !view.unlimited}
    <Orders {id} {query} />
    <Reservations {id} {query} />
  {/if}
  <Reclaim {id} {query} />
  <Holders {query} />
{/if}

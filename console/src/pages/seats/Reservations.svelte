<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import { RESERVATION_COLUMNS } from '../../lib/columns';
  import ListPart from '../../lib/components/ListPart.svelte';
  import { Listing } from '../../lib/listing.svelte';
  import type { Query } from '../../lib/router.svelte';
  import { whose } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import NewReservation from './NewReservation.svelte';
  import { Reserving } from './reserving.svelte';

  /** Seats set aside for somebody, for those who are to come, or passed on. */
  let { id, query }: { id: string; query: Query } = $props();
  const list = new Listing<Schemas['ReservationRow']>(
    ['seats'],
    () => ({ page: 'seats', part: 'reservations', query }),
    ({ limit, cursor }, signal) =>
      got(
        api.GET('/api/v1/seats/{pool_id}/reservations', {
          params: { path: { pool_id: id }, query: { limit, cursor } },
          signal
        })
      )
  );
  const acts = new Reserving(() => id);
</script>

<h2>Set aside, and passed on</h2>
<ListPart
  {list}
  columns={RESERVATION_COLUMNS}
  label="Set aside, and passed on"
  to={(row) => whose(row.person_id, row.person_name ?? '')}
  problem={acts.problem}
  none="Nothing is set aside."
>
  {#snippet cell(row, column)}
    {#if column.name === 'id'}
      {#if session.mayAct && row.taken < row.count && row.state !== 'over'}<button
          class="button slim"
          disabled={acts.busy}
          aria-label="Set aside no longer: {row.person_name ?? row.who}"
          onclick={() => void acts.withdraw(row.id)}>No longer</button
        >{/if}
    {:else}{column.text(row)}{/if}
  {/snippet}
  <p class="soft">Nothing is set aside.</p>
</ListPart>
{#if session.mayAct}<NewReservation {acts} />{/if}
